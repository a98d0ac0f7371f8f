/** What figures were before the last change, so that one sees what it did. */
import type { Outcome } from "../api/client";

/** Figures by clause and name. */
export type Told = Readonly<Record<string, number | string>>;

export interface Compared {
  /** The edit that a project stands at. */
  head: number;
  now: Told;
  /** At the edit it stood at before; the same as now where there was none. */
  before: Told;
}

export const told = (clause: string, figure: string): string => `${clause}/${figure}`;

/** All figures that have been worked out. */
export function toldOf(outcomes: Readonly<Record<string, Outcome>>): Told {
  const figures = Object.values(outcomes)
    .filter((o) => o.status === "done")
    .flatMap((o) => o.figures.filter((f) => !f.pending).map((f) => [told(o.id, f.name), f.value] as const));
  return Object.fromEntries(figures);
}

/** What is compared once all is worked out at an edit: with what was told at the one before. */
export function compared(last: Compared | null, head: number, now: Told): Compared {
  if (!last) return { head, now, before: now };
  return last.head === head ? { ...last, now } : { head, now, before: last.now };
}

/** What a figure was, where it was something else. */
export function was(last: Compared | null, clause: string, figure: string): number | string | undefined {
  const key = told(clause, figure);
  if (!last || !(key in last.before) || !(key in last.now)) return undefined;
  return last.before[key] === last.now[key] ? undefined : last.before[key];
}
