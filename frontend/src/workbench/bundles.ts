/** Clauses that are chosen together, and those that bear a name together. */
import type { ClauseEntry } from "../api/client";

type Placed = { entry: ClauseEntry; index: number };

/** Clauses of a run in which those of one bundle that follow each other stand together; others have no name. */
export interface Stretch {
  bundle: string;
  entries: Placed[];
}

export function stretchesOf(entries: readonly Placed[]): Stretch[] {
  const found: Stretch[] = [];
  for (const placed of entries) {
    const bundle = placed.entry.bundle ?? "";
    const last = found.at(-1);
    if (last && last.bundle === bundle && bundle) last.entries.push(placed);
    else found.push({ bundle, entries: [placed] });
  }
  return found;
}

/** All clauses of a bundle, wherever they stand. */
export const membersOf = (clauses: readonly ClauseEntry[], bundle: string): ClauseEntry[] =>
  clauses.filter((c) => c.bundle === bundle);

/** Clauses that are chosen once one was pointed at: alone, with the others, or with all up to it. */
export function chosenWith(
  clauses: readonly ClauseEntry[],
  chosen: ReadonlySet<string>,
  id: string,
  upTo: boolean,
): Set<string> {
  const next = new Set(chosen);
  const at = clauses.findIndex((c) => c.id === id);
  const others = clauses.flatMap((c, k) => (chosen.has(c.id) ? [k] : []));
  if (upTo && others.length) {
    const from = others.reduce((near, k) => (Math.abs(k - at) < Math.abs(near - at) ? k : near));
    for (const c of clauses.slice(Math.min(from, at), Math.max(from, at) + 1)) next.add(c.id);
  } else if (!next.delete(id)) next.add(id);
  return next;
}
