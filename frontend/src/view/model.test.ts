import { Box3 } from "three";
import { beforeEach, describe, expect, it } from "vitest";
import { type Catalogue, setCatalogue } from "../api/catalogue";
import type { Shown } from "../live/decode";
import type { Live } from "../live/live";
import { isSeen, paint, stoodFor, syncLayers } from "./model";
import { kindColour } from "./palette";
import type { Viewport } from "./viewport";

const layer = (name: string, more: object = {}) => ({
  name,
  title: name,
  thing: "",
  shown: false,
  measured: false,
  alone: false,
  over: "",
  ...more,
});
const type = (name: string, layers: object[]) => ({
  name,
  title: name,
  things: [],
  measures: [],
  told_until: "",
  layers,
});
const CATALOGUE = {
  types: [
    type("Shape", [layer("surface", { alone: true }), layer("lines", { over: "surface" })]),
    type("Net", [layer("net", { alone: true }), layer("cells", { alone: true }), layer("forces")]),
    {
      ...type("Structure", [layer("members", { shown: true, thing: "member" })]),
      measures: [{ name: "role", title: "role of members", layer: "members", words: "roles", scale: 1 }],
    },
  ],
  schedules: [],
  pack_groups: [],
  marks: [],
  units: [],
  materials: [],
} as unknown as Catalogue;

const shown = (of: string, arrays = {}) => ({ of, key: of, meta: {}, type: "geometry", arrays }) as Shown;
const said = (of: string, name: string) =>
  CATALOGUE.types.find((t) => t.name === of)!.layers.find((l) => l.name === name)!;
const seen = (of: string, name: string, wanted = {}, coloured = "", hidden = false, arrays = {}) =>
  isSeen(said(of, name), shown(of, arrays), wanted, coloured, hidden);

beforeEach(() => setCatalogue(CATALOGUE));

describe("what stands for what", () => {
  const live = (stands: Record<string, string[]>) =>
    ({
      outcomes: Object.fromEntries(Object.entries(stands).map(([id, ids]) => [id, { stands_for: ids }])),
    }) as unknown as Live;
  const all = (...pairs: [string, string][]) => pairs.map(([clause, of]) => ({ clause, shown: shown(of) }));

  it("hides what is below, and takes away what is of the same type", () => {
    const found = stoodFor(
      live({ a: [], b: ["a"], n: ["a", "b"] }),
      all(["a", "Shape"], ["b", "Shape"], ["n", "Net"]),
    );
    expect([...found.hidden].sort()).toEqual(["a", "b"]);
    expect([...found.gone]).toEqual(["a"]);
  });

  it("leaves what nothing shown stands for", () => {
    const found = stoodFor(live({ a: [], b: ["a"] }), all(["a", "Shape"]));
    expect(found.hidden.size).toBe(0);
  });
});

describe("what is seen", () => {
  it("is what nothing stands for, or what is wanted", () => {
    expect(seen("Shape", "surface")).toBe(true);
    expect(seen("Shape", "surface", {}, "", true)).toBe(false);
    expect(seen("Shape", "surface", { surface: true }, "", true)).toBe(true);
    expect(seen("Structure", "members")).toBe(false);
    expect(seen("Structure", "members", { members: true })).toBe(true);
  });

  it("is lines over a shape only with the shape", () => {
    expect(seen("Shape", "lines", { lines: true })).toBe(true);
    expect(seen("Shape", "lines", {})).toBe(false);
    expect(seen("Shape", "lines", { lines: true }, "", true)).toBe(false);
  });

  it("is what is coloured, whatever stands for it, and nothing that covers it", () => {
    expect(seen("Shape", "surface", {}, "surface", true)).toBe(true);
    expect(seen("Net", "cells", {}, "surface")).toBe(false);
    expect(seen("Net", "cells")).toBe(true);
    expect(seen("Net", "cells", {}, "", false, { bands: new Float32Array() })).toBe(false);
  });

  it("is bars of forces in the place of members, edges and cells", () => {
    expect(seen("Net", "forces", {}, "forces", true)).toBe(true);
    for (const name of ["net", "cells"]) expect(seen("Net", name, {}, "forces")).toBe(false);
    expect(seen("Structure", "members", { members: true }, "forces")).toBe(false);
  });
});

describe("colours that tell kinds apart", () => {
  it("are those of words, the same in every result, and stand in the legend once", () => {
    const seenColours: Record<string, string[]> = {};
    const drawn = (clause: string) => ({
      paint: (colours: ({ getHexString: () => string } | null)[]) => {
        seenColours[clause] = colours.map((c) => `#${c?.getHexString()}`);
      },
    });
    const layers = new Map(["a", "b"].map((id) => [`${id}/members`, drawn(id)]));
    const view = { layer: (name: string) => layers.get(name), draw: () => {} } as unknown as Viewport;
    const result = (id: string, roles: string[], role: number[]) => ({
      shown: { ...shown("Structure"), key: id, meta: { words: { roles } } } as Shown,
      measures: { arrays: { role } } as unknown as Shown,
    });
    const results = [result("a", ["arches", "ties"], [0, 1, 0]), result("b", ["ties", "columns"], [1, 0])];
    const live = {
      statement: { clauses: [{ id: "a" }, { id: "b" }] },
      outcomes: Object.fromEntries(["a", "b"].map((id) => [id, { status: "done", key: id }])),
      geometry: new Map(results.map((r) => [r.shown.key, r.shown])),
      measures: new Map(results.map((r) => [r.shown.key, r.measures])),
    } as unknown as Live;
    const legend = paint(view, live, "Structure/role", new Set());
    const [arch, tie, column] = [0, 1, 2].map(kindColour);
    expect(seenColours).toEqual({ a: [arch, tie, arch], b: [column, tie] });
    expect(legend?.words).toEqual([
      ["arches", arch],
      ["ties", tie],
      ["columns", column],
    ]);
  });
});

describe("what a model fills", () => {
  it("is as high as its bent members are, and not only their ends", () => {
    const bent = shown("Structure", {
      positions: new Float32Array([-8, 0, 0.8, 8, 0, 0.8]),
      axis: new Float32Array([-8, 0, 0.8, 0, 0, 3, 8, 0, 0.8]),
    });
    const live = {
      statement: { clauses: [{ id: "arch", off: false }] },
      outcomes: { arch: { status: "done", key: "k", stands_for: [] } },
      geometry: new Map([["k", bent]]),
      measures: new Map(),
      moving: null,
    } as unknown as Live;
    const view = { extent: new Box3(), places: [], setLayer: () => {} } as unknown as Viewport;
    expect(syncLayers(view, live, {}, "none")).toBe(true);
    expect(view.extent.max.toArray()).toEqual([8, 0, 3]);
    expect(view.places.some((place) => place.z === 3)).toBe(true);
  });
});
