import type { ClauseEntry } from "../api/client";

/** An id for a new clause that no other has. */
export function freshId(kind: string, clauses: readonly ClauseEntry[]): string {
  const taken = new Set(clauses.map((c) => c.id));
  for (let n = 1; ; n++) if (!taken.has(`${kind}-${n}`)) return `${kind}-${n}`;
}

/** A new clause of a kind, with some values of its own. */
export const freshClause = (
  kind: string,
  clauses: readonly ClauseEntry[],
  values: ClauseEntry["values"] = {},
): ClauseEntry => ({ id: freshId(kind, clauses), kind, off: false, on: {}, bundle: "", values });
