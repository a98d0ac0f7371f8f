import { expect, test } from "vitest";
import { entriesFor, found, wordsOf } from "./words";

const TABLE =
  "| word | means |\n|---|---|\n| net | edges on a shape |\n| line | in the code: a line |\n| hold | what fixes a net |\n";

test("words are read from the documentation, but those of the code", () => {
  expect(wordsOf(TABLE)).toEqual([
    { term: "net", text: "edges on a shape" },
    { term: "hold", text: "what fixes a net" },
  ]);
});

test("what is called so comes before what only speaks of it", () => {
  expect(entriesFor(wordsOf(TABLE), "Net").map((e) => e.term)).toEqual(["net", "hold"]);
  expect(entriesFor(wordsOf(TABLE), "")).toEqual([]);
  expect(entriesFor(wordsOf(TABLE), "shape edges")).toHaveLength(1);
});

test("the words that come with the application are found", () => {
  expect(found([], [], "strand").words.map((e) => e.term)).toContain("strand");
  expect(found([], [{ term: "m", text: "measure" }], "").keys).toHaveLength(1);
});
