import { beforeEach, expect, it } from "vitest";
import { type Catalogue, setCatalogue } from "../api/catalogue";
import type { Live } from "../live/live";
import { itemOf, labelOf, labelsToWrite, nextThing, placeOf } from "./naming";

const positions = new Float32Array([0, 0, 0, 3, 0, 0, 0, 3, 0, 9, 3, 0, 9, 0, 3, 9, 3, 3]);
const arrays = {
  positions,
  triangles: new Uint16Array([0, 1, 2, 3, 4, 5]),
  owner: new Uint16Array([0, 1]),
};
const shown = { of: "Solids", key: "k", meta: { labels: ["K1", "K2"] }, arrays };
const live = {
  statement: { clauses: [{ id: "a", off: false }] },
  outcomes: { a: { status: "done", key: "k" } },
  geometry: new Map([["k", shown]]),
  measures: new Map(),
} as unknown as Live;

beforeEach(() =>
  setCatalogue({
    types: [{ name: "Solids", layers: [{ name: "solids", thing: "solid" }], measures: [] }],
  } as unknown as Catalogue),
);

it("finds what bears labels of its own, whatever the case", () => {
  expect(itemOf(live, " k2")).toBe("a/solid/1");
  expect(itemOf(live, "K3")).toBeNull();
  expect(labelOf(live, "a/solid/1")).toBe("K2");
  expect(nextThing(live, null, 1)).toBe("a/solid/0");
  expect(nextThing(live, "a/solid/0", -1)).toBe("a/solid/1");
  expect(nextThing(live, "gone/solid/0", 1)).toBeNull();
});

it("puts it in the middle of its triangles", () => {
  expect(placeOf(live, "a/solid/0")!.toArray()).toEqual([1, 1, 0]);
  expect(placeOf(live, "a/solid/1")!.toArray()).toEqual([9, 2, 2]);
});

it("writes labels of layers that are shown, and of what is picked", () => {
  const texts = (layers: Record<string, boolean>, picked: string[] = []) =>
    labelsToWrite(live, layers, new Set(picked)).map((l) => l.text);
  expect(texts({ labels: true, solids: true })).toEqual(["K1", "K2"]);
  expect(texts({ labels: true, solids: false })).toEqual([]);
  expect(texts({ labels: false, solids: true }, ["a/solid/1"])).toEqual(["K2"]);
});

it("names members by their roles and puts them half-way along their pieces", () => {
  const bars = {
    of: "Structure",
    key: "s",
    meta: {},
    arrays: {
      positions: new Float32Array([0, 0, 0, 4, 0, 0]),
      axis: new Float32Array([0, 0, 1, 1, 0, 1, 4, 0, 1, 4, 6, 1]),
      pieces: new Uint16Array([0, 1, 1, 2, 2, 3]),
      member: new Uint16Array([0, 0, 1]),
    },
  };
  const meta = { prefixes: { node: "AN" }, memberPrefixes: ["AM", "AE"] };
  const names = { of: "Structure", key: "s", meta, arrays: { node: [1, 2], member: [7, 1], role: [1, 0] } };
  const framed = {
    statement: { clauses: [{ id: "s" }] },
    outcomes: { s: { status: "done", key: "s" } },
    geometry: new Map([["s", bars]]),
    measures: new Map([["s", names]]),
  } as unknown as Live;
  expect(labelOf(framed, "s/member/0")).toBe("AE7");
  expect(itemOf(framed, "am1")).toBe("s/member/1");
  // One walks from member to member, round and round, and begins with the first.
  expect(nextThing(framed, null, 1)).toBe("s/member/0");
  expect(nextThing(framed, "s/member/0", 1)).toBe("s/member/1");
  expect(nextThing(framed, "s/member/1", 1)).toBe("s/member/0");
  expect(nextThing(framed, "s/node/0", -1)).toBe("s/node/1");
  expect(placeOf(framed, "s/member/0")!.toArray()).toEqual([2, 0, 1]);
  expect(placeOf(framed, "s/member/1")!.toArray()).toEqual([4, 3, 1]);
});

it("names the things of what stands in the place of another alone", () => {
  const shown = (key: string) => ({ of: "Structure", key, meta: {}, arrays: { positions } });
  const named = (prefix: string) => ({ meta: { prefixes: { node: prefix } }, arrays: { node: [1] } });
  const renamed = {
    statement: { clauses: [{ id: "a" }, { id: "b" }] },
    outcomes: {
      a: { status: "done", key: "one", stands_for: [] },
      b: { status: "done", key: "two", stands_for: ["a"] },
    },
    geometry: new Map(["one", "two"].map((key) => [key, shown(key)])),
    measures: new Map([
      ["one", named("N")],
      ["two", named("AN")],
    ]),
  } as unknown as Live;
  expect(itemOf(renamed, "AN1")).toBe("b/node/0");
  expect(itemOf(renamed, "N1")).toBeNull();
});
