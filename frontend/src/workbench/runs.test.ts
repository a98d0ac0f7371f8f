import { describe, expect, it } from "vitest";
import type { ClauseEntry, ClauseKind, Outcome } from "../api/client";
import { chapterRuns, headlinesOf, runsWith } from "./runs";

const CHAPTERS = { dome: "Shape", pattern: "Lattice", hold: "Settle", faces: "Lattice" };
const kinds = Object.fromEntries(
  Object.entries(CHAPTERS).map(([kind, chapter]) => [kind, { kind, chapter } as ClauseKind]),
);
const entries = (text: string) => text.split(" ").map((kind, k) => ({ id: `c${k}`, kind }) as ClauseEntry);
const told = (text: string) =>
  chapterRuns(entries(text), kinds).map((run) => [run.key, run.entries.map((e) => e.index)]);

describe("chapters of a statement", () => {
  it("are runs of clauses, numbered where a chapter comes again", () => {
    expect(told("dome dome pattern hold faces pattern")).toEqual([
      ["Shape 1", [0, 1]],
      ["Lattice 1", [2]],
      ["Settle 1", [3]],
      ["Lattice 2", [4, 5]],
    ]);
    expect(told("unheard")).toEqual([[" 1", [0]]]);
  });

  it("hold what speaks of all words, and keep where it stands", () => {
    const runs = chapterRuns(entries("dome pattern hold pattern"), kinds);
    const found = runsWith(runs, "PAT er", (entry) => entry.kind);
    expect(found.map((run) => run.entries.map((e) => e.index))).toEqual([[1], [3]]);
    expect(runsWith(runs, " ", (entry) => entry.kind)).toBe(runs);
  });

  it("are told by headline figures of their last clause that has any", () => {
    const outcome = (status: string, names: string[], headline = true) =>
      ({ status, figures: names.map((name) => ({ name, headline })) }) as unknown as Outcome;
    const [run] = chapterRuns(entries("dome dome dome dome"), kinds);
    const outcomes = {
      c0: outcome("done", ["a"]),
      c1: outcome("done", ["b", "c", "d"]),
      c2: outcome("done", ["e"], false),
      c3: outcome("failed", ["f"]),
    };
    expect(headlinesOf(run!, outcomes, 2).map((f) => f.name)).toEqual(["b", "c"]);
    expect(headlinesOf(run!, {}, 2)).toEqual([]);
  });
});
