/** Ribs as plates of their real thickness. */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  type Matrix4,
  Mesh,
  MeshLambertMaterial,
} from "three";
import type { Shown } from "../live/decode";
import type { Drawn } from "./layers";
import { PALETTE } from "./palette";

/** Points (`w` 1) or directions (0) of things, each taken by its matrix. */
function moved(from: Float32Array, into: BufferAttribute, of: (point: number) => Matrix4 | null, w: 0 | 1) {
  const to = into.array as Float32Array;
  for (let i = 0; i < from.length / 3; i++) {
    const [x, y, z] = [from[3 * i]!, from[3 * i + 1]!, from[3 * i + 2]!];
    const m = of(i)?.elements;
    for (let k = 0; k < 3; k++)
      to[3 * i + k] = m ? m[k]! * x + m[4 + k]! * y + m[8 + k]! * z + w * m[12 + k]! : from[3 * i + k]!;
  }
  into.needsUpdate = true;
}

function ownersOfPlaces(triangles: ArrayLike<number>, owner: ArrayLike<number>, count: number) {
  const out = new Uint32Array(count);
  for (let i = 0; i < triangles.length; i++) out[triangles[i]!] = owner[Math.floor(i / 3)]!;
  return out;
}

export function drawRibs(shown: Shown): Drawn {
  const { positions, triangles, owner, lines } = shown.arrays;
  const group = new Group();
  if (!triangles || !owner || !lines) return { object: group, paint: () => {} };
  // Faces are flat: every triangle has corners of its own.
  const count = triangles.length;
  const places = new Float32Array(3 * count);
  for (let i = 0; i < count; i++)
    for (let k = 0; k < 3; k++) places[3 * i + k] = positions![3 * triangles[i]! + k]!;
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(places, 3));
  const colours = new BufferAttribute(new Float32Array(3 * count), 3);
  geometry.setAttribute("color", colours);
  geometry.computeVertexNormals();
  const material = new MeshLambertMaterial({
    vertexColors: true,
    side: DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
  const edges = new BufferGeometry();
  edges.setAttribute("position", new BufferAttribute(positions as Float32Array, 3));
  edges.setIndex(new BufferAttribute(lines as Uint32Array, 1));
  group.add(
    new Mesh(geometry, material),
    new LineSegments(edges, new LineBasicMaterial({ color: PALETTE.bandEdge })),
  );
  const own = new Color(PALETTE.band);
  const paint = (given: (Color | null)[] | null) => {
    for (let i = 0; i < count; i++) {
      const c = given?.[owner[Math.floor(i / 3)]!] ?? own;
      colours.setXYZ(i, c.r, c.g, c.b);
    }
    colours.needsUpdate = true;
  };
  paint(null);
  const home = { places: places.slice(), lines: positions as Float32Array };
  const turnedNormals = geometry.getAttribute("normal").array.slice() as Float32Array;
  const ofPlace = ownersOfPlaces(triangles, owner, positions!.length / 3);
  const carry = (matrices: (Matrix4 | null)[] | null) => {
    const points = geometry.getAttribute("position") as BufferAttribute;
    const normals = geometry.getAttribute("normal") as BufferAttribute;
    moved(home.places, points, (i) => matrices?.[owner[Math.floor(i / 3)]!] ?? null, 1);
    moved(turnedNormals, normals, (i) => matrices?.[owner[Math.floor(i / 3)]!] ?? null, 0);
    if (matrices && edges.getAttribute("position").array === home.lines)
      edges.setAttribute("position", new BufferAttribute(home.lines.slice(), 3));
    const ends = edges.getAttribute("position") as BufferAttribute;
    if (ends.array !== home.lines) moved(home.lines, ends, (i) => matrices?.[ofPlace[i]!] ?? null, 1);
    for (const g of [geometry, edges]) g.boundingSphere = null;
  };
  return { object: group, paint, carry, hit: (_, face) => owner[face ?? 0] ?? 0 };
}
