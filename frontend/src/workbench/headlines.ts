/** What the readouts tell of a statement. */
import { catalogue } from "../api/catalogue";
import type { Figure } from "../api/client";
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
