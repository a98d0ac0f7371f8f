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
