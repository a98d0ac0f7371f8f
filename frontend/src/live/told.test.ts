import { describe, expect, it } from "vitest";
import type { Outcome } from "../api/client";
import { lastOf } from "./live";

const live = (rows: [id: string, gives: string, stands: string[]][]) => ({
  statement: { clauses: rows.map(([id]) => ({ id, off: false })) } as never,
  outcomes: Object.fromEntries(
    rows.map(([id, gives, stands_for]) => [
      id,
      { id, gives, stands_for, status: "done" } as unknown as Outcome,
    ]),
  ),
});

describe("what is told of a type", () => {
  it("is the last result something was made of, and not the ground beside it", () => {
    const roof = live([
      ["roof", "Shape", []],
      ["ground", "Shape", []],
      ["net", "Net", ["roof"]],
      ["frame", "Structure", ["net", "roof"]],
    ]);
    expect(lastOf(roof, "Shape")?.id).toBe("roof");
    expect(lastOf(roof, "Structure")?.id).toBe("frame");
  });

  it("is the last in a line of its own type, and the last of all where nothing was made of any", () => {
    const shapes = live([
      ["box", "Shape", []],
      ["cut", "Shape", ["box"]],
      ["net", "Net", ["cut", "box"]],
    ]);
    expect(lastOf(shapes, "Shape")?.id).toBe("cut");
    expect(
      lastOf(
        live([
          ["a", "Shape", []],
          ["b", "Shape", []],
        ]),
        "Shape",
      )?.id,
    ).toBe("b");
    expect(lastOf(shapes, "Ribs")).toBeUndefined();
  });
});
