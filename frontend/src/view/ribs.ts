/** Ribs as plates of their real thickness. */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
} from "three";
import type { Shown } from "../live/decode";
import type { Drawn } from "./layers";
import { PALETTE } from "./palette";

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
  return { object: group, paint, hit: (_, face) => owner[face ?? 0] ?? 0 };
}
