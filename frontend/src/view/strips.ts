/** Strips as they are folded up, and part of the way between that and flat. */
import { Vector3 } from "three";
import type { Numbers, Shown } from "../live/decode";
import { at, type Drawn } from "./layers";
import { drawPlates } from "./ribs";

export function drawStrips(shown: Shown): Drawn {
  return drawPlates(shown, (home, _, unbent) => foldedUp(home, shown.arrays, unbent), true);
}

/** How far the fold of a rank among so many is closed, of a strip that is flat by a share: one closes after the other. */
export const closed = (rank: number, folds: number, flat: number) =>
  Math.min(Math.max((1 - flat) * folds - rank, 0), 1);

/** Places of strips of which each is flat by a share. Triangles are in the order in which they are folded, each beginning
 * with the side it is folded about; the first of a strip, with none before it, stays where it is. */
export function foldedUp(
  home: Float32Array,
  { triangles, before, turns, owner, flat }: Record<string, Numbers>,
  unbent: number[],
): Float32Array {
  if (!triangles || !before || !turns || !owner || !flat || !unbent.some((share) => share > 0)) return home;
  const out = home.slice();
  const normals: Vector3[] = [];
  const folds = unbent.map(() => 0);
  for (let t = 0; t < before.length; t++) if (turns[t]) folds[owner[t]!]! += 1;
  const done = unbent.map(() => 0);
  const [a, b, c, way, inward] = Array.from({ length: 5 }, () => new Vector3());
  const place = (i: number, into: Vector3) => at(out, i, into);
  for (let t = 0; t < before.length; t++) {
    const [i, j, k] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
    place(i, a!);
    way!.copy(place(j, b!)).sub(a!).normalize();
    if (before[t]! < 0) {
      normals[t] = place(k, new Vector3()).sub(a!).cross(way!).normalize().negate();
      continue;
    }
    const strip = owner[t]!;
    const turn = turns[t]
      ? (turns[t]! * Math.PI * closed(done[strip]!++, folds[strip]!, unbent[strip]!)) / 180
      : 0;
    const up = normals[before[t]!]!;
    inward!.copy(up).cross(way!);
    const [x, y] = beside(flat, i, j, k);
    c!.copy(inward!).multiplyScalar(Math.cos(turn)).addScaledVector(up, -Math.sin(turn));
    normals[t] = up.clone().multiplyScalar(Math.cos(turn)).addScaledVector(inward!, Math.sin(turn));
    a!
      .addScaledVector(way!, x)
      .addScaledVector(c!, y)
      .toArray(out, 3 * k);
  }
  return out;
}

/** How far a flat place is along the line between two others, and how far beside it. */
function beside(flat: Numbers, i: number, j: number, k: number): [number, number] {
  const [x, y] = [flat[2 * j]! - flat[2 * i]!, flat[2 * j + 1]! - flat[2 * i + 1]!];
  const [u, v] = [flat[2 * k]! - flat[2 * i]!, flat[2 * k + 1]! - flat[2 * i + 1]!];
  const length = Math.hypot(x, y) || 1;
  return [(x * u + y * v) / length, (x * v - y * u) / length];
}
