import { describe, expect, it } from "vitest";
import { shownAs, source, taken } from "./inputs";

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

it("finds what is drawn in the place of a clause's result", () => {
  const standing = (id: string, stands_for: string[], keeps_numbers: boolean) => ({
    [id]: { id, stands_for, keeps_numbers },
  });
  const named = { ...standing("frame", [], true), ...standing("name", ["frame"], true) };
  expect(shownAs(named, "frame")).toBe("name");
  expect(shownAs(named, "name")).toBe("name");
  // Numbers of what was joined are others.
  expect(shownAs({ ...named, ...standing("join", ["name"], false) }, "frame")).toBe("name");
});
