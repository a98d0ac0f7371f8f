import { useEffect, useState } from "react";
import { keep, kept } from "../ui/kept";

const key = (schedule: string) => `columns left out of ${schedule}`;

const hiddenIn = (schedule: string): Set<string> => new Set(kept<string[]>(key(schedule), []));

/** The columns of a schedule that are left out, kept in this browser. */
export function useHiddenColumns(schedule: string) {
  const [hidden, setHidden] = useState<ReadonlySet<string>>(() => hiddenIn(schedule));
  useEffect(() => setHidden(hiddenIn(schedule)), [schedule]);
  const set = (columns: ReadonlySet<string>) => {
    keep(key(schedule), [...columns]);
    setHidden(columns);
  };
  return [hidden, set] as const;
}
