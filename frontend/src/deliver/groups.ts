import type { Catalogue } from "../api/catalogue";
import type { Outcome } from "../api/client";

type Group = Catalogue["pack_groups"][number];

/** Whether a group of files has anything to be written of, among what clauses made. */
export function canWrite(group: Group, outcomes: readonly Outcome[]): boolean {
  return outcomes.some(
    (o) =>
      o.status === "done" &&
      group.needs.includes(o.gives) &&
      (!group.made_by.length || group.made_by.includes(o.kind)),
  );
}
