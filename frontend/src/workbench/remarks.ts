import type { ClauseEntry, Outcome, Remedy, Schemas } from "../api/client";

/** What is told of a clause: why it could not be made, or a warning. */
export interface Remark {
  /** The clause that is told of. */
  clause: string;
  tone: "brick" | "amber" | "soft";
  text: string;
  lengths: readonly Schemas["LengthMessage"][];
  at: [number, number, number] | null;
  /** Things that are meant: of what, which, and of the clause that made them. */
  of: string;
  which: readonly number[];
  made: string;
  remedies: readonly Remedy[];
}

type Place = Remark["at"];

/** What is told of one clause. */
export function remarksOf(clause: string, outcome: Outcome | undefined): Remark[] {
  if (!outcome) return [];
  const failed = ["failed", "begun", "waiting"].includes(outcome.status);
  const error: Remark = {
    clause,
    tone: outcome.status === "failed" ? "brick" : "soft",
    text: outcome.error,
    lengths: outcome.error_lengths,
    at: (outcome.error_at as Place) ?? null,
    of: "",
    which: [],
    made: clause,
    remedies: outcome.remedies,
  };
  const warnings = outcome.warnings.map<Remark>((w) => ({
    clause,
    tone: "amber",
    text: w.text,
    lengths: w.lengths,
    at: (w.at as Place) ?? null,
    of: w.of,
    which: w.which,
    made: w.clause || clause,
    remedies: w.remedies,
  }));
  return [...(outcome.error ? [error] : []), ...(failed ? [] : warnings)];
}

/** What is told of all clauses, in their order; those that only wait for others say nothing of their own. */
export function allRemarks(clauses: readonly ClauseEntry[], outcomes: Record<string, Outcome>): Remark[] {
  return clauses.flatMap((c) => remarksOf(c.id, outcomes[c.id])).filter((r) => r.tone !== "soft");
}

/** How many could not be made, and how many warnings there are, in words. */
export function counted(remarks: readonly Remark[]): { failed: string; warned: string } {
  const failed = remarks.filter((r) => r.tone === "brick").length;
  const warned = remarks.length - failed;
  return {
    failed: failed === 1 ? "1 clause could not be made" : failed ? `${failed} clauses could not be made` : "",
    warned: warned === 1 ? "1 warning" : warned ? `${warned} warnings` : "",
  };
}
