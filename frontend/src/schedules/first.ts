/** Which schedule is shown first: the first one that there are results for. */
import type { Schemas } from "../api/client";

type Schedule = Schemas["ScheduleMessage"];

export function firstWithRows<S extends Pick<Schedule, "needs">>(
  schedules: readonly S[],
  types: ReadonlySet<string>,
): S | undefined {
  return (
    schedules.find((s) => s.needs.length > 0 && s.needs.every((type) => types.has(type))) ?? schedules[0]
  );
}
