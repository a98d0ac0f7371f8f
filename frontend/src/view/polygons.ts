/** How polygons are cut into triangles to be drawn. */
import type { Numbers } from "../live/decode";

type Triangle = [number, number, number];

/**
 * Gives the triangles of the i-th polygon, of n corners, as places in its run of corners. Polygons listed in `cutOf`, in
 * rising order, are cut as `cuts` says (n − 2 triangles each, one polygon after the other), all others from their first
 * corner. Polygons are to be asked for in order.
 */
export function polygonCutter(cutOf?: Numbers, cuts?: Numbers): (i: number, n: number) => Triangle[] {
  let next = 0;
  let at = 0;
  return (i, n) => {
    const out: Triangle[] = [];
    const listed = cutOf !== undefined && cutOf[next] === i;
    for (let k = 1; k + 1 < n; k++) {
      if (listed) out.push([cuts![at]!, cuts![at + 1]!, cuts![at + 2]!]);
      else out.push([0, k, k + 1]);
      if (listed) at += 3;
    }
    if (listed) next += 1;
    return out;
  };
}
