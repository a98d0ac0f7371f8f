import { describe, expect, it } from "vitest";
import type { ProjectCard } from "../api/client";
import { cardGroups } from "./cards";

const card = (name: string, changed: string, demo = false, builds: string[] = []): ProjectCard => ({
  id: name,
  name,
  created: changed,
  changed,
  demo,
  builds,
  figures: { members: { value: 12, unit: "", decimals: 0 } },
  has_picture: false,
});

const CARDS = [
  card("Tower", "2026-03-01", true, ["lattice"]),
  card("Hall", "2026-02-01", true, ["lattice", "columns"]),
  card("Annex", "2026-01-01"),
  card("Zoo", "2026-04-01", false, ["waffle"]),
];
const names = (text: string, order: "changed" | "name") =>
  cardGroups(CARDS, text, order).map((g) => [g.title, g.cards.map((c) => c.name)]);

describe("cards of projects", () => {
  it("come in groups, one's own by their last change, those of the demo by name", () => {
    expect(names("", "changed")).toEqual([
      ["My projects", ["Zoo", "Annex"]],
      ["Demo", ["Hall", "Tower"]],
    ]);
    expect(names("", "name")[0]).toEqual(["My projects", ["Annex", "Zoo"]]);
  });

  it("are found by all words of their name, their kind of structure and their figures", () => {
    expect(names("LATT col", "name")).toEqual([["Demo", ["Hall"]]]);
    expect(names("members waffle", "name")).toEqual([["My projects", ["Zoo"]]]);
    expect(names("church", "name")).toEqual([]);
  });
});
