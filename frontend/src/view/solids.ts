/** Solids in the colours of what they are made of. */
import { BufferAttribute, BufferGeometry, Color, Group, Mesh, SRGBColorSpace, type Vector3 } from "three";
import type { Numbers, Shown } from "../live/decode";
import { type Kept, keepPlaces } from "./alone";
import { finished } from "./finishes";
import { type Drawn, linesOver } from "./layers";
import { PALETTE } from "./palette";

/** Every other solid is a little darker, so that neighbours are told apart. */
const EVERY_OTHER = 0.9;
const CLEAR = 0.72;

export function drawSolids(shown: Shown): Drawn {
  const { positions, normals, triangles, owner, lines, solidMaterial, pointSide } = shown.arrays as Record<
    string,
    Numbers
  >;
  const count = positions!.length / 3;
  // Shown apart they are moved, and what was sent is kept.
  const place = new BufferAttribute(new Float32Array(positions!), 3);
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", place);
  geometry.setAttribute("normal", new BufferAttribute(normals as Int8Array, 3, true));
  geometry.setIndex(new BufferAttribute((triangles as Uint16Array).slice(), 1));
  const colours = new BufferAttribute(new Float32Array(3 * count), 3);
  geometry.setAttribute("color", colours);
  const finishes = new Set(shown.meta.finishes);
  // What is of several kinds is drawn as one, matt.
  const material = finished(finishes.size === 1 ? [...finishes][0] : undefined, {
    vertexColors: true,
    polygonOffset: true,
    polygonOffsetFactor: 2,
    polygonOffsetUnits: 6,
  });
  material.userData.closed = true;
  // One sees through what is all clear; solids of several materials hide each other.
  if (shown.meta.clear?.length && shown.meta.clear.every(Boolean)) {
    material.transparent = true;
    material.opacity = CLEAR;
    material.depthWrite = false;
  }
  const group = new Group();
  const edges = linesOver(place, lines!.slice(), PALETTE.bandEdge);
  group.add(new Mesh(geometry, material), edges);
  // Solids share no points.
  const solidOf = new Uint32Array(count);
  triangles!.forEach((point, k) => {
    solidOf[point] = owner![Math.floor(k / 3)]!;
  });
  const looks = (shown.meta.looks ?? []).map(([r, g, b]) =>
    new Color().setRGB(r / 255, g / 255, b / 255, SRGBColorSpace),
  );
  const own = [1, EVERY_OTHER].map((share) => looks.map((look) => look.clone().multiplyScalar(share)));
  const ownOf = (solid: number) => own[solid % 2]![solidMaterial?.[solid] ?? 0]!;
  const paint = (given: (Color | null)[] | null) => {
    for (let i = 0; i < count; i++) {
      const c = given?.[solidOf[i]!] ?? ownOf(solidOf[i]!);
      colours.setXYZ(i, c.r, c.g, c.b);
    }
    colours.needsUpdate = true;
  };
  /** By the words of the server: between, outside, inside. */
  const sides = [PALETTE.between, PALETTE.outside, PALETTE.inside].map((c) => new Color(c));
  const tellSides = (told: boolean) => {
    if (!pointSide) return false;
    if (!told) return true;
    pointSide.forEach((side, i) => {
      const c = sides[side]!;
      colours.setXYZ(i, c.r, c.g, c.b);
    });
    colours.needsUpdate = true;
    return true;
  };
  paint(null);
  let isApart = false;
  const spread = (moves: Vector3[] | null) => {
    if (!moves && !isApart) return false;
    isApart = moves !== null;
    for (let i = 0; i < count; i++) {
      const move = moves?.[solidOf[i]!];
      place.setXYZ(
        i,
        positions![3 * i]! + (move?.x ?? 0),
        positions![3 * i + 1]! + (move?.y ?? 0),
        positions![3 * i + 2]! + (move?.z ?? 0),
      );
    }
    place.needsUpdate = true;
    geometry.computeBoundingSphere();
    return true;
  };
  const solidAt = (point: number) => solidOf[point]!;
  const only = (kept: Kept) => {
    keepPlaces(geometry.index!, triangles!, solidAt, kept);
    keepPlaces(edges.geometry.index!, lines!, solidAt, kept);
  };
  return { object: group, paint, tellSides, spread, only, hit: (_, face) => owner![face ?? 0] ?? 0 };
}
