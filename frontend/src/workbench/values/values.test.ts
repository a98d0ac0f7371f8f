import { expect, it } from "vitest";
import type { ClauseEntry, ClauseKind } from "../../api/client";
import { partsOf, segmentsOf } from "./values";

const kind = {
  values: [{ name: "seat", default: "packers" }],
  segments: [
    { text: "Panel", when: "" },
    { text: " by", when: "seat", equals: ["raised"] },
    { text: ", named", when: "structure", equals: ["none"] },
  ],
} as unknown as ClauseKind;
const texts = (entry: object) => segmentsOf(entry as ClauseEntry, kind).map((s) => s.text);

it("shows what depends on a choice while it is made, or is the default", () => {
  expect(texts({ values: { seat: "raised" } })).toEqual(["Panel", " by", ", named"]);
  expect(texts({})).toEqual(["Panel", ", named"]);
});

it("shows what depends on an input while none is given", () => {
  expect(texts({ on: { structure: ["frame"] } })).toEqual(["Panel"]);
  expect(texts({ on: { structure: [] } })).toEqual(["Panel", ", named"]);
});

it("keeps the rest of a sentence behind a word, with how much of it was set", () => {
  const long = {
    values: [
      { name: "seat", default: "packers" },
      { name: "turn", default: 0 },
      { name: "holes", default: [] },
    ],
    segments: [{ text: "Panel" }, { text: ", turned ", more: true }, { value: "turn", more: true }],
  } as unknown as ClauseKind;
  const said = (values: object) => partsOf({ values } as unknown as ClauseEntry, long);
  expect(said({}).first).toHaveLength(1);
  expect(said({}).rest).toHaveLength(2);
  expect(said({}).set).toBe(0);
  expect(said({ turn: 0, seat: "raised" }).set).toBe(0);
  expect(said({ turn: 30 }).set).toBe(1);
});
