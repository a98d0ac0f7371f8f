import type { ClauseEntry, ClauseKind, Edit } from "../api/client";
import type { Viewport } from "../view/viewport";
import { freshClause } from "./freshId";

/** Where a clause then stands that is taken from one place and put before the one at another, as they are counted
 * before that. */
export const placeAfter = (from: number, before: number): number => (before > from ? before - 1 : before);

type Corner = [number, number, number];

/** The box of what is shown, from its least to its greatest corner, beside which a clause begins; none where there is
 * nothing. */
export function boxOfModel({ extent }: Pick<Viewport, "extent">): [Corner, Corner] | null {
  return extent.isEmpty() ? null : [extent.min.toArray(), extent.max.toArray()];
}

/** The edit that puts a clause in where it is asked for: with what one of its kind begins with, of the size of what is shown
 * and beside it. */
export const chosen = (
  kind: Pick<ClauseKind, "kind" | "begins">,
  clauses: readonly ClauseEntry[],
  at: number,
  viewport: Pick<Viewport, "extent">,
) =>
  ({
    op: "add" as const,
    at,
    clause: freshClause(kind.kind, clauses, { ...kind.begins }),
    beside: boxOfModel(viewport),
  }) satisfies Edit;
