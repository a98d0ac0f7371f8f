/** Solids of a material, one colour each. */
import { BufferAttribute, BufferGeometry, Color, Group, Mesh, MeshLambertMaterial } from "three";
import type { Numbers, Shown } from "../live/decode";
import { type Drawn, linesOver } from "./layers";
import { PALETTE } from "./palette";

/** Every other solid is a little darker, so that neighbours are told apart. */
const EVERY_OTHER = 0.9;

export function drawSolids(shown: Shown): Drawn {
  const { positions, normals, triangles, owner, lines } = shown.arrays as Record<string, Numbers>;
  const count = positions!.length / 3;
  const place = new BufferAttribute(positions as Float32Array, 3);
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", place);
  geometry.setAttribute("normal", new BufferAttribute(normals as Int8Array, 3, true));
  geometry.setIndex(new BufferAttribute(triangles as Uint16Array, 1));
  const colours = new BufferAttribute(new Float32Array(3 * count), 3);
  geometry.setAttribute("color", colours);
  const material = new MeshLambertMaterial({
    vertexColors: true,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
  material.userData.closed = true;
  const group = new Group();
  group.add(new Mesh(geometry, material), linesOver(place, lines!, PALETTE.bandEdge));
  // Solids share no points.
  const solidOf = new Uint32Array(count);
  triangles!.forEach((point, k) => {
    solidOf[point] = owner![Math.floor(k / 3)]!;
  });
  const own = [1, EVERY_OTHER].map((share) => new Color(PALETTE.surface).multiplyScalar(share));
  const paint = (given: (Color | null)[] | null) => {
    for (let i = 0; i < count; i++) {
      const c = given?.[solidOf[i]!] ?? own[solidOf[i]! % 2]!;
      colours.setXYZ(i, c.r, c.g, c.b);
    }
    colours.needsUpdate = true;
  };
  paint(null);
  return { object: group, paint, hit: (_, face) => owner![face ?? 0] ?? 0 };
}
