import { describe, expect, it } from "vitest";
import type { ClauseEntry, ClauseKind } from "../api/client";
import { comingNext, kindsFor } from "./guided";

const take = (types: string[], rest = {}) => ({ types, optional: false, asked: false, ...rest });
const kind = (name: string, chapter: string, gives: string, takes: object[] = [], rest = {}): ClauseKind =>
  ({
    kind: name,
    title: name,
    chapter,
    group: chapter,
    gives,
    takes,
    summary: "",
    explained: "",
    sought_by: "",
    segments: [],
    values: [],
    ...rest,
  }) as unknown as ClauseKind;

const KINDS = [
  kind("dome", "Shape", "Shape"),
  kind("thicken", "Shape", "Shape", [take(["Shape"])]),
  kind("pattern", "Lattice", "Net", [take(["Shape"])]),
  kind("frame", "Frame", "Structure", [take(["Net"]), take(["Structure"], { optional: true })]),
  kind("bars", "Make", "BarPlan", [take(["Structure"])]),
  kind("cover", "Frame", "Panels", [take(["Net"]), take(["Structure"])]),
];
const entries = (text: string) => text.split(" ").map((k) => ({ id: k, kind: k, off: false }) as ClauseEntry);
const names = (kinds: readonly ClauseKind[]) => kinds.map((k) => k.kind);

describe("the guide", () => {
  it("puts first what takes the last result and finds all else it needs above", () => {
    expect(names(comingNext(KINDS, []))).toEqual(["dome"]);
    expect(names(comingNext(KINDS, entries("dome")))).toEqual(["pattern", "thicken"]);
    expect(names(comingNext(KINDS, entries("dome pattern")))).toEqual(["frame"]);
    expect(names(comingNext(KINDS, entries("dome pattern frame")))).toEqual(["bars", "cover", "frame"]);
    const off = [...entries("dome"), { id: "net", kind: "pattern", off: true } as ClauseEntry];
    expect(names(comingNext(KINDS, off))).toEqual(["pattern", "thicken"]);
  });

  it("finds what is called otherwise", () => {
    const kinds = [
      kind("columns", "Frame", "Structure", [], { sought_by: "posts legs" }),
      kind("cap", "Shape", "Shape"),
    ];
    expect(names(kindsFor(kinds, "post"))).toEqual(["columns"]);
  });

  it("is searched by titles first, then by what is said, then by what can be chosen", () => {
    const value = { label: "Material", choices: [{ key: "S355", title: "steel S355" }] };
    const kinds = [
      kind("plates", "Make", "Plates", [], { values: [value] }),
      kind("posts", "Frame", "Structure", [], { summary: "Bars of steel." }),
      kind("steel", "Frame", "Structure"),
    ];
    expect(names(kindsFor(kinds, "STEEL"))).toEqual(["steel", "posts", "plates"]);
    expect(names(kindsFor(kinds, "make material"))).toEqual(["plates"]);
    expect(names(kindsFor(kinds, "glue"))).toEqual([]);
    expect(names(kindsFor(kinds, "steel bar"))).toEqual(["posts"]);
    expect(names(kindsFor(kinds, "glued bars"))).toEqual(["posts"]);
    expect(kindsFor(kinds, " ")).toBe(kinds);
  });

  it("is searched from where words begin, whatever stands between them", () => {
    const kinds = [
      kind("settle", "Settle", "Net", [], { sought_by: "hang hung" }),
      kind("moved", "Shape", "Shape", [], { summary: "What has changed." }),
      kind("grid", "Frame", "Structure", [], { summary: "A double-layer net (tri-hexagons)." }),
    ];
    expect(names(kindsFor(kinds, "hang"))).toEqual(["settle"]);
    expect(names(kindsFor(kinds, "layer, double"))).toEqual(["grid"]);
    expect(names(kindsFor(kinds, "hexagon"))).toEqual(["grid"]);
  });
});
