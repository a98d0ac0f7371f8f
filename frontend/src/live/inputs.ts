/** What clauses work on. */
import type { Outcome } from "../api/client";

type Takes = Pick<Outcome, "inputs"> | undefined;

/** Ids of all clauses that one works on. */
export const taken = (outcome: Takes): string[] => Object.values(outcome?.inputs ?? {}).flat();

/** The clause an input comes from; empty where it comes from none. */
export const source = (outcome: Takes, input: string): string => outcome?.inputs[input]?.[0] ?? "";

type Standing = Record<string, Pick<Outcome, "id" | "stands_for" | "keeps_numbers">>;

/** The clause whose result is drawn in the place of one's, as far as numbers of things stay the same. */
export function shownAs(outcomes: Standing, clause: string): string {
  const next = Object.values(outcomes).find((o) => o.keeps_numbers && o.stands_for.includes(clause));
  return next ? shownAs(outcomes, next.id) : clause;
}
