import type { ClauseEntry } from "../api/client";

/** An id for a new clause that no other has. */
export function freshId(kind: string, clauses: ClauseEntry[]): string {
  const taken = new Set(clauses.map((c) => c.id));
  for (let n = 1; ; n++) if (!taken.has(`${kind}-${n}`)) return `${kind}-${n}`;
}
