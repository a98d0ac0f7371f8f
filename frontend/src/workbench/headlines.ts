/** What the readouts tell of a statement, and clauses so need not. */
import { catalogue } from "../api/catalogue";
import type { Figure, Outcome } from "../api/client";
import { type Live, lastOf } from "../live/live";
import { capital } from "../ui/text";

export interface Group {
  title: string;
  clause: string;
  figures: Figure[];
}

/** Headline figures of the last result of each type, as long as none of another type tells more: what was made last first.
 */
export function headlines(live: Live): Group[] {
  const last = catalogue().types.map((t) => ({ type: t, outcome: lastOf(live, t.name) }));
  const there = new Set(last.filter((l) => l.outcome).map((l) => l.type.name));
  const place = new Map((live.statement?.clauses ?? []).map((c, k) => [c.id, k]));
  return last
    .filter(({ type, outcome }) => outcome && !there.has(type.told_until))
    .map(({ type, outcome }) => ({
      title: capital(type.title),
      clause: outcome!.id,
      figures: outcome!.figures.filter((f) => f.headline),
    }))
    .filter(({ figures }) => figures.length)
    .sort((a, b) => (place.get(b.clause) ?? 0) - (place.get(a.clause) ?? 0));
}

/** By what was said, the figures that are told elsewhere, as `clause/name`; every clause asks for them. */
const elsewhereOf = new WeakMap<Live, Set<string>>();

/** Figures that the readouts tell, and those of a clause that another one tells anew of the same thing. */
function toldElsewhere(live: Live): Set<string> {
  const known = elsewhereOf.get(live);
  if (known) return known;
  const outcomes = Object.values(live.outcomes);
  const anew = outcomes.flatMap(({ gives, stands_for, figures }) =>
    stands_for
      .filter((id) => live.outcomes[id]?.gives === gives)
      .flatMap((id) => figures.map((f) => `${id}/${f.name}`)),
  );
  const read = headlines(live).flatMap((g) => g.figures.map((f) => `${g.clause}/${f.name}`));
  const found = new Set([...anew, ...read]);
  elsewhereOf.set(live, found);
  return found;
}

/** The figures of a clause that are told nowhere else. */
export function ownFigures(live: Live, outcome: Outcome): Figure[] {
  const elsewhere = toldElsewhere(live);
  return outcome.figures.filter((f) => !elsewhere.has(`${outcome.id}/${f.name}`));
}
