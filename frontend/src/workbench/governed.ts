/** What a value governs among the things in the view, and which value governs a thing. */
import type { ClauseEntry, ValueSpec } from "../api/client";
import type { Live } from "../live/live";
import { type Item, item, parts } from "../state/view";
import { valueIn } from "./values/values";

/** A section as it is written, without what may be written otherwise: spaces, and signs of multiplication. */
const plain = (section: string) => section.toLowerCase().replace(/\s/g, "").replace(/×/g, "x");

/** The results a clause is seen in: its own, and those that stand in the place of it. */
function seenIn(live: Live, clause: string): string[] {
  const standing = (live.statement?.clauses ?? []).filter((c) =>
    live.outcomes[c.id]?.stands_for.includes(clause),
  );
  return [clause, ...standing.map((c) => c.id)];
}

/** Of a result with sections, its list of them and which each member has. */
function sectionsOf(live: Live, clause: string): { names: string[]; of: ArrayLike<number> } | null {
  const key = live.outcomes[clause]?.key ?? "";
  const names = live.geometry.get(key)?.meta.words?.sections;
  const of = live.measures.get(key)?.arrays.section;
  return names && of ? { names, of } : null;
}

/** Members that have the section a value names; nothing of other values. */
export function governed(live: Live, entry: ClauseEntry, spec: ValueSpec): Item[] {
  if (spec.kind !== "section") return [];
  const wanted = plain(String(valueIn(entry, spec)));
  return seenIn(live, entry.id).flatMap((clause) => {
    const sections = sectionsOf(live, clause);
    if (!sections) return [];
    const number = sections.names.findIndex((name) => plain(name) === wanted);
    const found: Item[] = [];
    for (let m = 0; m < sections.of.length; m++)
      if (sections.of[m] === number) found.push(item(clause, "member", m));
    return found;
  });
}

/** Whether a value governs a thing: the section of a member. */
export function governs(live: Live, entry: ClauseEntry, spec: ValueSpec, thing: Item): boolean {
  const { clause, kind, index } = parts(thing);
  if (spec.kind !== "section" || kind !== "member" || !seenIn(live, entry.id).includes(clause)) return false;
  const sections = sectionsOf(live, clause);
  const name = sections?.names[sections.of[index] ?? -1];
  return name !== undefined && plain(name) === plain(String(valueIn(entry, spec)));
}
