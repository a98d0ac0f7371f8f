import { describe, expect, it } from "vitest";
import type { ClauseEntry, ValueSpec } from "../api/client";
import type { Live } from "../live/live";
import { governed, governs } from "./governed";

const entry = { id: "f", kind: "frame", values: { inner: "CHS 60.3x4" } } as unknown as ClauseEntry;
const inner = { name: "inner", kind: "section", initial: "CHS 88.9 × 4" } as unknown as ValueSpec;
const live = {
  statement: { clauses: [{ id: "f" }, { id: "c" }, { id: "p" }] },
  outcomes: {
    f: { key: "1", stands_for: [] },
    c: { key: "2", stands_for: ["f"] },
    p: { key: "3", stands_for: [] },
  },
  geometry: new Map([["2", { meta: { words: { sections: ["CHS 88.9 × 4", "CHS 60.3 × 4"] } } }]]),
  measures: new Map([["2", { arrays: { section: [0, 1, 1, 0] } }]]),
} as unknown as Live;

describe("what values govern", () => {
  it("is all members of a section, in what stands for what the clause made", () => {
    expect(governed(live, entry, inner)).toEqual(["c/member/1", "c/member/2"]);
  });

  it("is nothing where the section is not there, or the value is none", () => {
    const other = { ...entry, values: { inner: "CHS 33.7 × 4" } } as ClauseEntry;
    expect(governed(live, other, inner)).toEqual([]);
    expect(governed(live, entry, { ...inner, kind: "choice" } as ValueSpec)).toEqual([]);
  });

  it("is told of a thing too", () => {
    expect(governs(live, entry, inner, "c/member/2")).toBe(true);
    for (const thing of ["c/member/0", "p/member/2", "c/node/1", "c/member/9"])
      expect(governs(live, entry, inner, thing)).toBe(false);
  });
});
