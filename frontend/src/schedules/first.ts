/** Which schedules there are results for, and which is shown first. */
import type { Outcome, Schemas } from "../api/client";

type Schedule = Schemas["ScheduleMessage"];

/** The types of results there are, drawn or not. */
export const typesMade = (outcomes: Readonly<Record<string, Outcome>>): ReadonlySet<string> =>
  new Set(
    Object.values(outcomes)
      .filter((o) => o.status === "done")
      .map((o) => o.gives),
  );

/** Whether there are no results of a type that a schedule needs. */
export const lacks = (schedule: Pick<Schedule, "needs">, types: ReadonlySet<string>): boolean =>
  schedule.needs.some((type) => !types.has(type));

export function firstWithRows<S extends Pick<Schedule, "needs">>(
  schedules: readonly S[],
  types: ReadonlySet<string>,
): S | undefined {
  return schedules.find((s) => s.needs.length > 0 && !lacks(s, types)) ?? schedules[0];
}
