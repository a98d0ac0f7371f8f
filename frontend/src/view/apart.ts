/** Things shown apart from each other, one by one or in the groups they are of. */
import { Box3, Vector3 } from "three";
import type { Numbers } from "../live/decode";
import type { Live } from "../live/live";
import { at } from "./layers";
import { sources } from "./model";
import type { Viewport } from "./viewport";

/** How things are shown apart: by themselves or in groups, and how far, from 0 to 1. */
export interface Spread {
  by: "thing" | "group";
  share: number;
}

/** How many times as far from the middle of the ground things are at most. */
const FURTHEST = 1.2;

/** Moves (m) of things by their middles: away from the middle of the ground under all of them, those of a group as one. */
export function movesApart(
  middles: readonly Vector3[],
  groups: Numbers | undefined,
  { by, share }: Spread,
): Vector3[] {
  const centre = new Vector3();
  for (const middle of middles) centre.addScaledVector(middle, 1 / middles.length);
  centre.z = Math.min(...middles.map((m) => m.z));
  const moved = (from: Vector3) =>
    from
      .clone()
      .sub(centre)
      .multiplyScalar(FURTHEST * share);
  if (by === "thing" || !groups) return middles.map(moved);
  const sums = new Map<number, { sum: Vector3; count: number }>();
  middles.forEach((middle, k) => {
    const { sum, count } = sums.get(groups[k]!) ?? { sum: new Vector3(), count: 0 };
    sums.set(groups[k]!, { sum: sum.add(middle), count: count + 1 });
  });
  return middles.map((_, k) => {
    const { sum, count } = sums.get(groups[k]!)!;
    return moved(sum.clone().divideScalar(count));
  });
}

/** Layers whose things can be shown apart, with their middles and groups. */
function parted(live: Live) {
  return sources(live).flatMap(({ clause, shown }) => {
    const { middles, solidGroup } = shown.arrays;
    if (!middles) return [];
    const places = Array.from({ length: middles.length / 3 }, (_, k) => at(middles, k));
    return [{ layer: `${clause}/${shown.of.toLowerCase()}`, middles: places, groups: solidGroup }];
  });
}

/** Whether there is anything to be shown apart, and whether it is of groups. */
export function canSpread(live: Live): { some: boolean; groups: boolean } {
  const all = parted(live);
  return { some: all.length > 0, groups: all.some((p) => p.groups) };
}

/** Shows things apart, or together again. */
export function spreadOut(view: Viewport, live: Live, spread: Spread | null) {
  for (const { layer, middles, groups } of parted(live)) {
    const drawn = view.layer(layer);
    const moves = spread?.share ? movesApart(middles, groups, spread) : null;
    if (drawn?.spread?.(moves)) view.draw();
  }
  // What only lies on things that are moved is left out as long as they are.
  for (const { clause, shown } of sources(live)) {
    if (shown.arrays.middles) continue;
    const drawn = view.layer(`${clause}/${shown.of.toLowerCase()}`);
    if (drawn?.spread?.(spread?.share ? [] : null)) view.draw();
  }
}

/** All that there is, shown apart as far as it can be. */
export function wholeSpread(view: Viewport, live: Live, by: Spread["by"]): Box3 {
  const box = new Box3().copy(view.extent);
  for (const { middles, groups } of parted(live)) {
    const moves = movesApart(middles, groups, { by, share: 1 });
    middles.forEach((middle, k) => {
      box.expandByPoint(middle.clone().add(moves[k]!));
    });
  }
  return box;
}
