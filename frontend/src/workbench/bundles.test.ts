import { describe, expect, it } from "vitest";
import type { ClauseEntry } from "../api/client";
import { chosenWith, membersOf, stretchesOf } from "./bundles";

const clauses = [
  ["a", ""],
  ["b", "roof"],
  ["c", "roof"],
  ["d", ""],
  ["e", ""],
  ["f", "roof"],
].map(([id, bundle]) => ({ id, bundle, kind: "dome" }) as unknown as ClauseEntry);
const placed = clauses.map((entry, index) => ({ entry, index }));

describe("bundles of clauses", () => {
  it("stand together where they follow each other", () => {
    const told = stretchesOf(placed).map((s) => [s.bundle, s.entries.map(({ entry }) => entry.id).join("")]);
    expect(told).toEqual([
      ["", "a"],
      ["roof", "bc"],
      ["", "d"],
      ["", "e"],
      ["roof", "f"],
    ]);
  });

  it("have all of their clauses, wherever these stand", () => {
    expect(membersOf(clauses, "roof").map((c) => c.id)).toEqual(["b", "c", "f"]);
  });
});

describe("clauses that are chosen", () => {
  it("are added and let go one by one", () => {
    const one = chosenWith(clauses, new Set(), "b", false);
    expect([...chosenWith(clauses, one, "e", false)]).toEqual(["b", "e"]);
    expect([...chosenWith(clauses, one, "b", false)]).toEqual([]);
  });

  it("reach from the nearest that is chosen up to one", () => {
    expect([...chosenWith(clauses, new Set(["b"]), "e", true)].sort()).toEqual(["b", "c", "d", "e"]);
    expect([...chosenWith(clauses, new Set(["a", "e"]), "d", true)].sort()).toEqual(["a", "d", "e"]);
    expect([...chosenWith(clauses, new Set(), "d", true)]).toEqual(["d"]);
  });
});
