import type { Viewport } from "../view/viewport";

/** Where a clause then stands that is taken from one place and put before the one at another, as they are counted
 * before that. */
export const placeAfter = (from: number, before: number): number => (before > from ? before - 1 : before);

type Corner = [number, number, number];

/** The box of what is shown, from its least to its greatest corner, beside which a clause begins; none where there is
 * nothing. */
export function boxOfModel({ extent }: Pick<Viewport, "extent">): [Corner, Corner] | null {
  return extent.isEmpty() ? null : [extent.min.toArray(), extent.max.toArray()];
}
