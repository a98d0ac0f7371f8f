import { useEffect, useState } from "react";

const key = (schedule: string) => `columns left out of ${schedule}`;

const kept = (schedule: string): Set<string> => {
  try {
    return new Set(JSON.parse(localStorage.getItem(key(schedule)) ?? "[]") as string[]);
  } catch {
    return new Set();
  }
};

/** The columns of a schedule that are left out, kept in this browser. */
export function useHiddenColumns(schedule: string) {
  const [hidden, setHidden] = useState<ReadonlySet<string>>(() => kept(schedule));
  useEffect(() => setHidden(kept(schedule)), [schedule]);
  const set = (columns: ReadonlySet<string>) => {
    localStorage.setItem(key(schedule), JSON.stringify([...columns]));
    setHidden(columns);
  };
  return [hidden, set] as const;
}
