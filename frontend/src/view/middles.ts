/** Middles of things that have triangles of their own. */
import { Vector3 } from "three";
import type { Shown } from "../live/decode";
import { at } from "./layers";
import { memberOfPiece } from "./members";

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

/** Where members are half-way: on the piece that holds the middle of their length. */
export function middlesOfMembers(shown: Pick<Shown, "arrays">): Vector3[] {
  const { positions, axis, pieces } = shown.arrays;
  const places = axis ?? positions!;
  const member = memberOfPiece(shown);
  const runs: { from: Vector3; to: Vector3 }[][] = [];
  for (let p = 0; p < pieces!.length / 2; p++) {
    runs[member(p)] ??= [];
    runs[member(p)]!.push({ from: at(places, pieces![2 * p]!), to: at(places, pieces![2 * p + 1]!) });
  }
  return runs.map((run) => {
    const lengths = run.map(({ from, to }) => from.distanceTo(to));
    let left = lengths.reduce((a, b) => a + b, 0) / 2;
    const k = lengths.findIndex((length, i) => {
      if (left <= length || i === run.length - 1) return true;
      left -= length;
      return false;
    });
    return run[k]!.from.clone().lerp(run[k]!.to, Math.min(left / (lengths[k]! || 1), 1));
  });
}
