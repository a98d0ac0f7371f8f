/** Nets, their cells and the panels on them. */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  type Material,
  Mesh,
  SRGBColorSpace,
  Vector3,
} from "three";
import type { Numbers, Shown } from "../live/decode";
import { type Kept, keepPlaces } from "./alone";
import { finished } from "./finishes";
import { at, bit, type Drawn, linesOver, twoSided } from "./layers";
import { PALETTE } from "./palette";
import { bordersOf, cutPolygons, type Triangles } from "./polygons";

/** Panels not yet drawn as they are cut are a little smaller than their cells, so that the joints show. */
const SHRINK = 0.985;

interface Faces {
  material: Material;
  /** The colour of each polygon. */
  own: (polygon: number) => Color;
  /** How much they are drawn towards their middles. */
  shrink: number;
  raised?: number;
  /** Which of the polygons are drawn. */
  has?: (polygon: number) => boolean;
}

/** Where the corners of triangles are drawn: towards the middles of their polygons and raised along their normals. */
function placesOf(shown: Shown, { corners: cut, owner }: Triangles, shrink: number, raised: number) {
  const { positions, corners, counts } = shown.arrays as Record<string, Numbers>;
  const places = new Float32Array(3 * cut.length);
  const centre = new Vector3();
  const [p, q, lift] = [new Vector3(), new Vector3(), new Vector3()];
  let [start, t] = [0, 0];
  for (let i = 0; t < owner.length; i++) {
    const n = counts![i]!;
    if (owner[t] === i) {
      centre.set(0, 0, 0);
      for (let k = 0; k < n; k++) centre.addScaledVector(at(positions!, corners![start + k]!, p), 1 / n);
      lift.set(0, 0, 0);
      for (let k = 0; raised && k < n; k++) {
        at(positions!, corners![start + k]!, p).sub(centre);
        lift.add(p.cross(at(positions!, corners![start + ((k + 1) % n)]!, q).sub(centre)));
      }
      lift.normalize().multiplyScalar(raised);
    }
    for (; owner[t] === i; t++)
      for (let c = 3 * t; c < 3 * t + 3; c++) {
        at(positions!, corners![cut[c]!]!, p)
          .lerp(centre, 1 - shrink)
          .add(lift);
        p.toArray(places, 3 * c);
      }
    start += n;
  }
  return places;
}

/** Polygons as flat triangles, drawn a little towards their middles and `raised` along their normals. */
function drawFaces(shown: Shown, { material, own, shrink, raised = 0, has }: Faces) {
  const { counts, cutOf, cuts, cutCounts } = shown.arrays as Record<string, Numbers>;
  const triangles = cutPolygons(counts!, { cutOf, cuts, cutCounts }, has);
  const { owner } = triangles;
  const sent = placesOf(shown, triangles, shrink, raised);
  const geometry = new BufferGeometry();
  const place = new BufferAttribute(sent, 3);
  geometry.setAttribute("position", place);
  const colours = new BufferAttribute(new Float32Array(sent.length), 3);
  geometry.setAttribute("color", colours);
  geometry.computeVertexNormals();
  const mesh = new Mesh(geometry, material);
  mesh.userData.things = owner;
  const paint = (given: (Color | null)[] | null) => {
    const { array } = colours;
    for (let t = 0; t < owner.length; t++) {
      const c = given?.[owner[t]!] ?? own(owner[t]!);
      for (let k = 9 * t; k < 9 * t + 9; k += 3) [array[k], array[k + 1], array[k + 2]] = [c.r, c.g, c.b];
    }
    colours.needsUpdate = true;
  };
  paint(null);
  return { object: mesh, paint, place, triangles, hit: (face: number | undefined) => owner[face ?? 0] ?? 0 };
}

/** Polygons with their outlines, which can be moved and left out one by one. */
function drawPlates(shown: Shown, faces: Faces): Drawn & { outlines: LineSegments } {
  const { object, paint, place, triangles, hit } = drawFaces(shown, faces);
  const { geometry } = object;
  const { owner } = triangles;
  const rims = bordersOf(triangles);
  const outlines = linesOver(place, rims.slice(), PALETTE.rim);
  const ownerAt = (vertex: number) => owner[Math.floor(vertex / 3)]!;
  let sent: Float32Array | null = null;
  const p = new Vector3();
  const spread = (moves: Vector3[] | null) => {
    if (!moves && !sent) return false;
    sent ??= (place.array as Float32Array).slice();
    for (let i = 0; i < place.count; i++) {
      at(sent, i, p);
      const move = moves?.[ownerAt(i)];
      if (move) p.add(move);
      place.setXYZ(i, p.x, p.y, p.z);
    }
    if (!moves) sent = null;
    place.needsUpdate = true;
    geometry.computeBoundingSphere();
    return true;
  };
  const whole = Uint32Array.from({ length: place.count }, (_, k) => k);
  const only = (kept: Kept) => {
    if (!geometry.index) geometry.setIndex(new BufferAttribute(whole.slice(), 1));
    keepPlaces(geometry.index!, whole, ownerAt, kept);
    keepPlaces(outlines.geometry.index!, rims, ownerAt, kept);
  };
  return { object, paint, spread, only, outlines, hit: (_, face) => hit(face) };
}

/** Panels in the colours of their sheets; one sees through those that are clear. */
export function drawPanels(shown: Shown): Drawn {
  const { looks = [], finishes = [], clear = [], raised = 0, exact = false } = shown.meta;
  const sheetOf = shown.arrays.sheetOf!;
  const colours = looks.map(([r, g, b]) => new Color().setRGB(r / 255, g / 255, b / 255, SRGBColorSpace));
  const glass = { transparent: true, opacity: 0.72, depthWrite: false };
  // Sheets of one finish that are clear, or not, are drawn together.
  const kindOf = (sheet: number) => `${clear[sheet] ? "clear" : "full"} ${finishes[sheet]}`;
  const parts = [...new Set(looks.map((_, sheet) => kindOf(sheet)))].map((kind) => {
    const first = looks.findIndex((_, sheet) => kindOf(sheet) === kind);
    const drawn = drawPlates(shown, {
      material: finished(finishes[first], {
        name: clear[first] ? "clear" : "full",
        vertexColors: true,
        side: DoubleSide,
        ...(clear[first] ? glass : {}),
      }),
      own: (panel) => colours[sheetOf[panel]!]!,
      shrink: exact ? 1 : SHRINK,
      raised,
      has: (panel) => kindOf(sheetOf[panel]!) === kind,
    });
    if (clear[first]) drawn.object.renderOrder = 1;
    return drawn;
  });
  const object = new Group();
  object.add(...parts.map((part) => part.object));
  const outlines = new Group();
  outlines.add(...parts.map((part) => part.outlines));
  object.add(outlines);
  return {
    object,
    outlines,
    paint: (given) => {
      for (const part of parts) part.paint(given);
    },
    spread: (moves) => parts.map((part) => part.spread!(moves)).some(Boolean),
    only: (kept) => {
      for (const part of parts) part.only!(kept);
    },
    hit: (_, face, mesh) => (mesh.userData.things as Uint32Array)[face ?? 0] ?? 0,
  };
}

/** The strands of a weave as bands, one colour an edge. */
function drawBands(bands: Float32Array, triangles: Numbers): Drawn {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(bands, 3));
  geometry.setIndex(new BufferAttribute(triangles as Uint16Array, 1));
  geometry.computeVertexNormals();
  const count = bands.length / 3;
  const colours = new BufferAttribute(new Float32Array(3 * count), 3);
  geometry.setAttribute("color", colours);
  const plain = new Color(PALETTE.band);
  const paint = (given: (Color | null)[] | null) => {
    for (let k = 0; k < count; k++) {
      const c = given?.[k >> 2] ?? plain;
      colours.setXYZ(k, c.r, c.g, c.b);
    }
    colours.needsUpdate = true;
  };
  paint(null);
  const pairs = new Uint32Array(count);
  for (let e = 0; e < count / 4; e++) pairs.set([4 * e, 4 * e + 2, 4 * e + 1, 4 * e + 3], 4 * e);
  const group = new Group();
  const place = geometry.getAttribute("position") as BufferAttribute;
  group.add(new Mesh(geometry, twoSided()), linesOver(place, pairs, PALETTE.bandEdge));
  return { object: group, paint };
}

export function drawNet(shown: Shown): Drawn {
  const { positions, edges, border, bands, bandTriangles } = shown.arrays as Record<string, Numbers>;
  if (bands) return drawBands(bands as Float32Array, bandTriangles!);
  const place = new BufferAttribute(positions as Float32Array, 3);
  const [inner, outer]: [number[], number[]] = [[], []];
  for (let e = 0; e < edges!.length / 2; e++)
    (bit(border!, e) ? outer : inner).push(edges![2 * e]!, edges![2 * e + 1]!);
  const group = new Group();
  for (const [index, colour] of [
    [inner, PALETTE.member],
    [outer, PALETTE.plum],
  ] as const) {
    const part = new BufferGeometry();
    part.setAttribute("position", place);
    part.setIndex(index);
    group.add(new LineSegments(part, new LineBasicMaterial({ color: colour })));
  }
  let told: LineSegments | null = null;
  const count = edges!.length / 2;
  /** Lines with a colour of their own stand over the plain ones while they are wanted. */
  const paint = (given: (Color | null)[] | null) => {
    if (given && !told) {
      const own = new BufferGeometry();
      const places = new Float32Array(6 * count);
      for (let k = 0; k < 2 * count; k++)
        for (let d = 0; d < 3; d++) places[3 * k + d] = positions![3 * edges![k]! + d]!;
      own.setAttribute("position", new BufferAttribute(places, 3));
      own.setAttribute("color", new BufferAttribute(new Float32Array(6 * count), 3));
      told = new LineSegments(own, new LineBasicMaterial({ vertexColors: true }));
      group.add(told);
    }
    for (const part of group.children) part.visible = (part === told) === (given !== null);
    if (!given || !told) return;
    const colours = told.geometry.getAttribute("color") as BufferAttribute;
    const plain = new Color(PALETTE.member);
    for (let e = 0; e < count; e++) {
      const c = given[e] ?? plain;
      colours.setXYZ(2 * e, c.r, c.g, c.b).setXYZ(2 * e + 1, c.r, c.g, c.b);
    }
    colours.needsUpdate = true;
  };
  return { object: group, paint };
}

/** The cells of a net: where there is one they are shown rather than the shape, which would hide its straight edges. */
export function drawCells(shown: Shown): Drawn {
  const plain = new Color(PALETTE.surface);
  const { object, paint } = drawFaces(shown, { material: twoSided(), own: () => plain, shrink: 1 });
  return { object, paint };
}
