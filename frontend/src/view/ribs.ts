/** Plates, bent or folded: ribs of their real thickness, and what else is carried to its sheet and back. */
import {
  BufferAttribute,
  BufferGeometry,
  type Camera,
  Color,
  DoubleSide,
  FrontSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  type Matrix4,
  Mesh,
  SRGBColorSpace,
  Vector3,
} from "three";
import type { Numbers, Shown } from "../live/decode";
import { type Kept, keepPlaces } from "./alone";
import { finished } from "./finishes";
import type { Drawn } from "./layers";
import { PALETTE } from "./palette";

const [OTHER_SET, EVERY_OTHER] = [0.8, 0.88];

export function drawRibs(shown: Shown): Drawn {
  const { flat } = shown.arrays;
  return drawPlates(shown, (home, owner, unbent) =>
    partlyFlat(home, flat as Float32Array | undefined, owner, unbent),
  );
}

/** What is bent and laid flat as a whole, without a thickness. */
export function drawUnrolled(shown: Shown): Drawn {
  const { flat } = shown.arrays;
  return drawPlates(
    shown,
    (home, owner, unbent) => partlyFlat(home, flat as Float32Array | undefined, owner, unbent),
    true,
  );
}

/** Plates and where their places are while each is made flat by a share; `skins` have no thickness, and look as their
 * material does. */
export function drawPlates(
  shown: Shown,
  flattened: (home: Float32Array, owner: Uint32Array, unbent: number[]) => Float32Array,
  skins = false,
): Drawn {
  const { positions, triangles, owner, lines } = shown.arrays;
  const group = new Group();
  if (!positions || !triangles || !owner || !lines) return { object: group, paint: () => {} };
  const home = positions as Float32Array;
  const count = home.length / 3;
  const ofPlace = ownersOfPlaces(triangles, owner, count);
  const places = new BufferAttribute(home, 3);
  const colours = new BufferAttribute(new Float32Array(home.length), 3);
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", places);
  geometry.setAttribute("color", colours);
  geometry.setIndex(new BufferAttribute(triangles.slice() as Uint32Array, 1));
  const { labels = [], looks, finishes = [] } = shown.meta;
  const material = finished(finishes[0], {
    vertexColors: true,
    // Faces are flat, and share their corners.
    flatShading: true,
    side: skins ? DoubleSide : FrontSide,
    polygonOffset: true,
    polygonOffsetFactor: 2,
    polygonOffsetUnits: 6,
  });
  material.userData.closed = !skins;
  const edges = new BufferGeometry();
  edges.setAttribute("position", places);
  edges.setIndex(new BufferAttribute(lines.slice() as Uint32Array, 1));
  const outlines = new LineSegments(edges, new LineBasicMaterial({ color: PALETTE.bandEdge }));
  group.add(new Mesh(geometry, material), outlines);
  const own = looks ? coloursOfLook(looks[0]!, labels.length) : coloursOfSets(labels);
  const paint = (given: (Color | null)[] | null) => {
    for (let i = 0; i < count; i++) {
      const c = given?.[ofPlace[i]!] ?? own[ofPlace[i]!]!;
      colours.setXYZ(i, c.r, c.g, c.b);
    }
    colours.needsUpdate = true;
  };
  paint(null);
  const carry = (matrices: (Matrix4 | null)[] | null, unbent: number[] = []) => {
    const now = geometry.getAttribute("position") as BufferAttribute;
    if (!matrices && now === places) return false;
    const carried = now === places ? new BufferAttribute(home.slice(), 3) : now;
    moved(flattened(home, ofPlace, unbent), carried, ofPlace, matrices);
    for (const g of [geometry, edges]) {
      g.setAttribute("position", matrices ? carried : places);
      g.boundingSphere = null;
    }
    return true;
  };
  const drawn = new BufferAttribute(triangles.slice() as Uint32Array, 1);
  const nearFirst = sorter(geometry, drawn.array, owner, () => geometry.getAttribute("position").array);
  const only = (kept: Kept) => {
    keepPlaces(drawn, triangles, (place) => ofPlace[place]!, kept);
    keepPlaces(edges.index!, lines, (place) => ofPlace[place]!, kept);
    nearFirst.anew();
  };
  const hit = (_: number | undefined, face: number | undefined) =>
    ofPlace[geometry.index?.array[3 * (face ?? 0)] ?? 0] ?? 0;
  return { object: group, paint, carry, only, outlines, seenFrom: nearFirst.from, hit };
}

/** Every other one is a little darker, so that neighbours are told apart. */
function coloursOfLook([r, g, b]: [number, number, number], count: number): Color[] {
  const look = new Color().setRGB(r / 255, g / 255, b / 255, SRGBColorSpace);
  const tones = [look, look.clone().multiplyScalar(EVERY_OTHER)];
  return Array.from({ length: count }, (_, k) => tones[k % 2]!);
}

/** Ribs of other sets than the first are darker, and every other one a little, so that they are told apart from any side. */
function coloursOfSets(labels: string[]): Color[] {
  const set = (label: string) => label.replace(/\d.*$/, "");
  const tone = (share: number) => new Color(PALETTE.band).multiplyScalar(share);
  const tones = [tone(1), tone(EVERY_OTHER), tone(OTHER_SET), tone(OTHER_SET * EVERY_OTHER)];
  return labels.map((label, k) => tones[(set(label) === set(labels[0]!) ? 0 : 2) + (k % 2)]!);
}

/** Draws the nearest ribs first: those behind are then found hidden before they are shaded, of which there are many. */
function sorter(
  geometry: BufferGeometry,
  triangles: ArrayLike<number>,
  owner: Numbers,
  places: () => ArrayLike<number>,
) {
  const starts: number[] = [];
  for (let t = 0; t < owner.length; t++) if (t === 0 || owner[t] !== owner[t - 1]) starts.push(t);
  const ends = [...starts.slice(1), owner.length];
  let last = "";
  const anew = () => {
    last = "";
  };
  const sorted = (camera: Camera) => {
    const at = places();
    const from = camera.getWorldPosition(new Vector3());
    const ahead = camera.getWorldDirection(new Vector3());
    const away = starts.map((t, k) => {
      // The nearest of a few of its corners.
      let near = Number.POSITIVE_INFINITY;
      const step = Math.max(1, Math.floor((ends[k]! - t) / 12));
      for (let u = t; u < ends[k]!; u += step) {
        const i = 3 * triangles[3 * u]!;
        near = Math.min(
          near,
          (at[i]! - from.x) * ahead.x + (at[i + 1]! - from.y) * ahead.y + (at[i + 2]! - from.z) * ahead.z,
        );
      }
      return near;
    });
    const order = starts.map((_, k) => k).sort((a, b) => away[a]! - away[b]!);
    if (order.join() === last || !geometry.index) return;
    last = order.join();
    const into = geometry.index.array;
    let n = 0;
    for (const k of order) for (let i = 3 * starts[k]!; i < 3 * ends[k]!; i++) into[n++] = triangles[i]!;
    geometry.index.needsUpdate = true;
  };
  return { from: sorted, anew };
}

/** Places of plates of which each is bent back flat by a share. */
export function partlyFlat(
  home: Float32Array,
  flat: Float32Array | undefined,
  owner: Uint32Array,
  unbent: number[],
): Float32Array {
  if (!flat) return home;
  return home.map((x, i) => x + (flat[i]! - x) * (unbent[owner[Math.floor(i / 3)]!] ?? 0));
}

/** Places of things, each taken by its matrix. */
function moved(
  from: Float32Array,
  into: BufferAttribute,
  owner: Uint32Array,
  matrices: (Matrix4 | null)[] | null,
) {
  const to = into.array as Float32Array;
  for (let i = 0; i < owner.length; i++) {
    const [x, y, z] = [from[3 * i]!, from[3 * i + 1]!, from[3 * i + 2]!];
    const m = matrices?.[owner[i]!]?.elements;
    for (let k = 0; k < 3; k++)
      to[3 * i + k] = m ? m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + m[12 + k]! : from[3 * i + k]!;
  }
  into.needsUpdate = true;
}

function ownersOfPlaces(triangles: Numbers, owner: Numbers, count: number): Uint32Array {
  const out = new Uint32Array(count);
  for (let i = 0; i < triangles.length; i++) out[triangles[i]!] = owner[Math.floor(i / 3)]!;
  return out;
}
