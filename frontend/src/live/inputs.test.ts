import { describe, expect, it } from "vitest";
import { source, taken } from "./inputs";

const outcome = { inputs: { shapes: ["one", "two"], outline: ["line"], guides: [] } };

describe("inputs", () => {
  it("are told input after input", () => {
    expect(taken(outcome)).toEqual(["one", "two", "line"]);
    expect(taken(undefined)).toEqual([]);
  });

  it("come from the first that is named, or from none", () => {
    expect(source(outcome, "shapes")).toBe("one");
    expect(source(outcome, "guides")).toBe("");
    expect(source(undefined, "shapes")).toBe("");
  });
});
