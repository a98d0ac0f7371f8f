/** Middles of things that have triangles of their own. */
import { Vector3 } from "three";
import type { Shown } from "../live/decode";
import { at } from "./layers";

/** Middles (m) of ribs and solids: of the corners of the triangles that each owns. */
export function middlesOf({ arrays }: Pick<Shown, "arrays">, count: number): Vector3[] {
  const { positions, triangles, owner } = arrays;
  const sum = Array.from({ length: count }, () => new Vector3());
  if (!positions || !triangles || !owner) return sum;
  const seen = new Float64Array(count);
  const corner = new Vector3();
  triangles.forEach((point, k) => {
    const thing = owner[Math.floor(k / 3)]!;
    sum[thing]!.add(at(positions, point, corner));
    seen[thing]! += 1;
  });
  return sum.map((s, k) => s.divideScalar(Math.max(seen[k]!, 1)));
}
