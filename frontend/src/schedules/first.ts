/** Which schedules there are results for, and which is shown first. */
import type { Schemas } from "../api/client";

type Schedule = Schemas["ScheduleMessage"];

/** Whether there are no results of a type that a schedule needs. */
export const lacks = (schedule: Pick<Schedule, "needs">, types: ReadonlySet<string>): boolean =>
  schedule.needs.some((type) => !types.has(type));

export function firstWithRows<S extends Pick<Schedule, "needs">>(
  schedules: readonly S[],
  types: ReadonlySet<string>,
): S | undefined {
  return schedules.find((s) => s.needs.length > 0 && !lacks(s, types)) ?? schedules[0];
}
