import { describe, expect, it } from "vitest";
import type { Outcome } from "../api/client";
import { compared, toldOf, was } from "./compared";

const outcomes = (members: number, rest: Partial<Outcome> = {}) => ({
  bars: {
    id: "bars",
    status: "done",
    figures: [
      { name: "members", value: members },
      { name: "mass", value: 10, pending: true },
    ],
    ...rest,
  } as unknown as Outcome,
});

describe("what figures were before a change", () => {
  it("is known from the second edit on, and stays while nothing is edited", () => {
    const first = compared(null, 7, toldOf(outcomes(12)));
    expect(was(first, "bars", "members")).toBeUndefined();
    const second = compared(first, 8, toldOf(outcomes(14)));
    expect(was(second, "bars", "members")).toBe(12);
    const again = compared(second, 8, toldOf(outcomes(14)));
    expect(was(again, "bars", "members")).toBe(12);
    const undone = compared(again, 7, toldOf(outcomes(12)));
    expect(was(undone, "bars", "members")).toBe(14);
    expect(was(compared(undone, 9, toldOf(outcomes(12))), "bars", "members")).toBeUndefined();
  });

  it("says nothing of figures that are new, gone or still being worked out", () => {
    const first = compared(null, 1, toldOf(outcomes(12)));
    const failed = compared(first, 2, toldOf(outcomes(14, { status: "failed" })));
    expect(was(failed, "bars", "members")).toBeUndefined();
    expect(was(compared(failed, 3, toldOf(outcomes(15))), "bars", "members")).toBeUndefined();
    expect(toldOf(outcomes(12))).toEqual({ "bars/members": 12 });
    expect(was(null, "bars", "members")).toBeUndefined();
  });
});
