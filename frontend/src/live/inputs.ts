/** What clauses work on. */
import type { Outcome } from "../api/client";

type Takes = Pick<Outcome, "inputs"> | undefined;

/** Ids of all clauses that one works on. */
export const taken = (outcome: Takes): string[] => Object.values(outcome?.inputs ?? {}).flat();

/** The clause an input comes from; empty where it comes from none. */
export const source = (outcome: Takes, input: string): string => outcome?.inputs[input]?.[0] ?? "";
