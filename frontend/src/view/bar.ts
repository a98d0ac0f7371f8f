/** A section drawn as a bar along x from 0 to 1, which is then put in the place of each member. */
import { BufferAttribute, BufferGeometry, ShapeUtils, Vector2 } from "three";
import type { SectionShape } from "../live/decode";

type Corner = [number, number];

/** An outline with the middles of its sides, where ends that two planes cut come to a point. */
function withMiddles(outline: Corner[]): Corner[] {
  return outline.flatMap(([y, z], k): Corner[] => {
    const [y1, z1] = outline[(k + 1) % outline.length]!;
    return [
      [y, z],
      [(y + y1) / 2, (z + z1) / 2],
    ];
  });
}

/** Places, normals and triangles of what is drawn, as they come together. */
interface Parts {
  positions: number[];
  normals: number[];
  index: number[];
}

/** The sides along an outline. A round one shares its corners between sides, which halves the work of drawing. */
function addSides({ positions, normals, index }: Parts, outline: Corner[], round: boolean): void {
  const base = positions.length / 3;
  const n = outline.length;
  const corner = (y: number, z: number, across: Corner) => {
    const size = Math.hypot(...across) || 1;
    for (const x of [0, 1]) {
      positions.push(x, y, z);
      normals.push(0, across[0] / size, across[1] / size);
    }
  };
  outline.forEach(([y, z], k) => {
    const [y1, z1] = outline[(k + 1) % n]!;
    const [a, b] = round ? [2 * k, 2 * ((k + 1) % n)] : [4 * k, 4 * k + 2];
    corner(y, z, round ? [y, z] : [z1 - z, y - y1]);
    if (!round) corner(y1, z1, [z1 - z, y - y1]);
    index.push(base + a, base + b, base + b + 1, base + a, base + b + 1, base + a + 1);
  });
}

/** The two ends of an outline. */
function addEnds({ positions, normals, index }: Parts, outline: Corner[]): void {
  const faces = ShapeUtils.triangulateShape(
    outline.map(([y, z]) => new Vector2(y, z)),
    [],
  ) as [number, number, number][];
  for (const x of [0, 1]) {
    const base = positions.length / 3;
    for (const [y, z] of outline) {
      positions.push(x, y, z);
      normals.push(x ? 1 : -1, 0, 0);
    }
    for (const [a, b, c] of faces) index.push(base + a, x ? base + b : base + c, x ? base + c : base + b);
  }
}

/** The bar of a section; of one that planes cut at its ends the sides have corners in their middles, too. */
export function bar(section: Pick<SectionShape, "outlines" | "round">, isCut: boolean): BufferGeometry {
  const parts: Parts = { positions: [], normals: [], index: [] };
  for (const own of section.outlines) {
    const outline = isCut && !section.round ? withMiddles(own) : own;
    addSides(parts, outline, section.round);
    addEnds(parts, outline);
  }
  return geometryOf(parts);
}

/** A section drawn plainly: four sides as far out as its outlines reach, without ends. */
export function plainBar({ outlines }: Pick<SectionShape, "outlines">): BufferGeometry {
  const [ys, zs] = [0, 1].map((axis) => outlines.flat().map((corner) => corner[axis]!));
  const [y0, y1] = [Math.min(...ys!), Math.max(...ys!)];
  const [z0, z1] = [Math.min(...zs!), Math.max(...zs!)];
  const parts: Parts = { positions: [], normals: [], index: [] };
  const box: Corner[] = [
    [y0, z0],
    [y1, z0],
    [y1, z1],
    [y0, z1],
  ];
  addSides(parts, box, true);
  return geometryOf(parts);
}

function geometryOf({ positions, normals, index }: Parts): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(positions), 3));
  geometry.setAttribute("normal", new BufferAttribute(new Float32Array(normals), 3));
  geometry.setIndex(index);
  return geometry;
}
