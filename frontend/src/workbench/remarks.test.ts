import { describe, expect, it } from "vitest";
import type { ClauseEntry, Outcome } from "../api/client";
import { allRemarks, counted, remarksOf } from "./remarks";

const outcome = (rest: Partial<Outcome>) =>
  ({ status: "done", error: "", error_at: null, warnings: [], remedies: [], ...rest }) as Outcome;
const warning = (text: string, rest = {}) =>
  ({ text, of: "node", which: [3], at: [1, 2, 3], remedies: [], clause: "", ...rest }) as never;
const entry = (id: string) => ({ id, kind: "dome" }) as ClauseEntry;

describe("what is told of clauses", () => {
  it("is why one failed, and then no warning of what it made before", () => {
    const failed = outcome({ status: "failed", error: "No room.", warnings: [warning("old")] });
    expect(remarksOf("a", failed).map((r) => [r.tone, r.text])).toEqual([["brick", "No room."]]);
  });

  it("says softly what is still to be drawn", () => {
    const begun = outcome({ status: "begun", error: "Nothing is drawn yet." });
    expect(remarksOf("a", begun).map((r) => r.tone)).toEqual(["soft"]);
  });

  it("keeps the place and the things that are meant, of the clause that made these", () => {
    const made = outcome({ warnings: [warning("thin"), warning("long", { clause: "net", at: null })] });
    expect(remarksOf("a", made).map((r) => [r.made, r.which, r.at])).toEqual([
      ["a", [3], [1, 2, 3]],
      ["net", [3], null],
    ]);
  });

  it("is one list in the order of the statement, without those that only wait", () => {
    const outcomes = {
      late: outcome({ warnings: [warning("b")] }),
      first: outcome({ warnings: [warning("a")] }),
      broken: outcome({ status: "failed", error: "c" }),
      begun: outcome({ status: "begun", error: "Nothing is drawn yet." }),
      waits: outcome({ status: "waiting", error: "Waits for “Dome”." }),
    };
    const all = allRemarks(["first", "late", "broken", "begun", "waits", "new"].map(entry), outcomes);
    expect(all.map((r) => r.text)).toEqual(["a", "b", "c"]);
    expect(counted(all)).toEqual({ failed: "1 clause could not be made", warned: "2 warnings" });
    expect(counted([])).toEqual({ failed: "", warned: "" });
  });
});
