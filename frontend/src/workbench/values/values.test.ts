import { expect, it } from "vitest";
import type { ClauseEntry, ClauseKind } from "../../api/client";
import { segmentsOf } from "./values";

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
