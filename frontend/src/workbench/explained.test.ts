import { describe, expect, it } from "vitest";
import type { ClauseKind, ValueSpec } from "../api/client";
import { mayBe, worksOn } from "./explained";

const spec = (rest: object) => ({ kind: "number", unit: "", choices: [], ...rest }) as unknown as ValueSpec;
const choices = (count: number) => Array.from({ length: count }, (_, k) => ({ key: `${k}`, title: `t${k}` }));

describe("what is explained of a clause", () => {
  it("says what a value may be", () => {
    expect(mayBe(spec({ unit: "m", least: 0.1, most: 500 }))).toBe("0.1 to 500 m");
    expect(mayBe(spec({ unit: "°", least: 0 }))).toBe("0 ° or more");
    expect(mayBe(spec({ unit: "m" }))).toBe("m");
    expect(mayBe(spec({ kind: "count", least: 1, most: 8 }))).toBe("1 to 8");
    expect(mayBe(spec({ kind: "choice", choices: choices(2) }))).toBe("t0, t1");
    expect(mayBe(spec({ kind: "choice", choices: choices(9) }))).toBe("t0, t1, t2, t3, t4, t5 and 3 more");
    expect(mayBe(spec({ kind: "file", least: 1 }))).toBe("");
  });

  it("says what it works on, and what it can do without", () => {
    const takes = [
      { label: "Net", optional: false, many: false },
      { label: "Holds", optional: true, many: true },
    ];
    expect(worksOn({ takes } as unknown as ClauseKind)).toEqual([
      { label: "Net", needed: true, many: false },
      { label: "Holds", needed: false, many: true },
    ]);
  });
});
