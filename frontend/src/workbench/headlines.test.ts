import { beforeAll, expect, test } from "vitest";
import { type Catalogue, setCatalogue } from "../api/catalogue";
import type { Outcome } from "../api/client";
import type { Live } from "../live/live";
import { headlines, ownFigures } from "./headlines";

const type = (name: string, told_until = "") => ({
  ...{ name, title: name.toLowerCase(), told_until },
  ...{ things: [], layers: [], measures: [] },
});
beforeAll(() =>
  setCatalogue({
    types: [type("Net", "Structure"), type("Shape"), type("Structure")],
    schedules: [],
  } as unknown as Catalogue),
);

const made = (id: string, gives: string, stands_for: string[] = [], own: string[] = []) =>
  ({
    id,
    gives,
    status: "done",
    stands_for,
    figures: [
      { name: "length", headline: true },
      { name: "lift", headline: false },
      ...own.map((name) => ({ name, headline: true })),
    ],
  }) as unknown as Outcome;

const live = (...outcomes: Outcome[]) =>
  ({
    statement: { clauses: outcomes.map((o) => ({ id: o.id, kind: o.id, off: false })) },
    outcomes: Object.fromEntries(outcomes.map((o) => [o.id, o])),
  }) as unknown as Live;

const LINE = live(
  made("shape", "Shape"),
  made("net", "Net"),
  made("frame", "Structure", ["net"], ["bays"]),
  made("named", "Structure", ["frame"]),
);

test("the readouts tell of the last result of each type, what was made last first", () => {
  expect(headlines(LINE).map((g) => [g.title, g.clause])).toEqual([
    ["Structure", "named"],
    ["Shape", "shape"],
  ]);
});

test("under a clause stands what is told nowhere else: neither beside the view nor anew by a clause below", () => {
  const names = (id: string) => ownFigures(LINE, LINE.outcomes[id]!).map((f) => f.name);
  expect(names("named")).toEqual(["lift"]);
  expect(names("frame")).toEqual(["bays"]);
  expect(names("net")).toEqual(["length", "lift"]);
});
