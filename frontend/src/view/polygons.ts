/** How polygons are cut into triangles to be drawn. */
import type { Numbers } from "../live/decode";

export type Triangle = [number, number, number];

/**
 * Gives the triangles of the i-th polygon, of n corners, as places in its run of corners. Polygons listed in `cutOf`, in
 * rising order, are cut as `cuts` says (one polygon after the other; n − 2 triangles each or, of those with openings, as
 * many as `cutCounts` says), all others from their first corner. Polygons are to be asked for in order.
 */
export function polygonCutter(
  cutOf?: Numbers,
  cuts?: Numbers,
  cutCounts?: Numbers,
): (i: number, n: number) => Triangle[] {
  let next = 0;
  let at = 0;
  return (i, n) => {
    const out: Triangle[] = [];
    const listed = cutOf !== undefined && cutOf[next] === i;
    const triangles = (listed && cutCounts?.[next]) || n - 2;
    for (let k = 1; k <= triangles; k++) {
      if (listed) out.push([cuts![at]!, cuts![at + 1]!, cuts![at + 2]!]);
      else out.push([0, k, k + 1]);
      if (listed) at += 3;
    }
    if (listed) next += 1;
    return out;
  };
}

/** The sides of triangles that only one of them has, as pairs of places in the run of their corners, three each. */
export function bordersOf(triangles: Triangle[]): [number, number][] {
  const sides = new Map<string, [number, number] | null>();
  triangles.forEach((triangle, t) => {
    for (let k = 0; k < 3; k++) {
      const next = (k + 1) % 3;
      const key = [triangle[k]!, triangle[next]!].sort((a, b) => a - b).join();
      sides.set(key, sides.has(key) ? null : [3 * t + k, 3 * t + next]);
    }
  });
  return [...sides.values()].filter((side) => side !== null);
}
