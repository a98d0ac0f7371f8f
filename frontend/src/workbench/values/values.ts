/** Values of clauses, and what their sentences show of them. */
import type { ClauseEntry, ClauseKind, ValueSpec } from "../../api/client";

type Segment = ClauseKind["segments"][number];

/** The value as the clause has it, or the default. */
export const valueIn = (entry: ClauseEntry, spec: ValueSpec): unknown =>
  entry.values?.[spec.name] ?? spec.default;

/** Whether a clause's sentence shows a segment: by a choice, or while it was given no such input. */
function isShown(segment: Segment, entry: ClauseEntry, kind: ClauseKind): boolean {
  if (!segment.when) return true;
  const spec = kind.values.find((v) => v.name === segment.when);
  if (spec) return segment.equals!.includes(String(valueIn(entry, spec)));
  return !entry.on?.[segment.when]?.length;
}

/** The segments that a clause's sentence shows now. */
export const segmentsOf = (entry: ClauseEntry, kind: ClauseKind): Segment[] =>
  kind.segments.filter((s) => isShown(s, entry, kind));

/** What a sentence says first and the rest of it, and how many values in the rest are not as they begin. */
export function partsOf(
  entry: ClauseEntry,
  kind: ClauseKind,
): { first: Segment[]; rest: Segment[]; set: number } {
  const shown = segmentsOf(entry, kind);
  const rest = shown.filter((s) => s.more);
  const own = entry.values ?? {};
  const isSet = ({ name, default: begins }: ValueSpec) =>
    name in own && JSON.stringify(own[name]) !== JSON.stringify(begins);
  const values = kind.values.filter((v) => rest.some((s) => s.value === v.name));
  return { first: shown.filter((s) => !s.more), rest, set: values.filter(isSet).length };
}
