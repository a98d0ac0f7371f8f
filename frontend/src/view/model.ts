/** Keeps what the view draws in step with what the server said. */
import { Box3, Color, Vector3 } from "three";
import { catalogue, type Layer as LayerSaid, layersOf, type Measure, measureOf } from "../api/catalogue";
import type { Shown } from "../live/decode";
import type { Live } from "../live/live";
import { type ColourBy, type Item, type Layer, parts } from "../state/view";
import { capital } from "../ui/text";
import { finishesShown, showFinishes } from "./finishes";
import { drawForces, drawReactions } from "./forces";
import { at, type Drawn, drawCurves, drawLines, drawPlain, drawSurface, drawTemplates } from "./layers";
import { drawBodies, drawMembers, drawNodes } from "./members";
import { drawCells, drawNet, drawPanels } from "./nets";
import { divergingRamp, evenBound, extent, kindColour, PALETTE, ramp, rampColours } from "./palette";
import { drawRibs, drawUnrolled } from "./ribs";
import { drawSolids } from "./solids";
import { drawStrips } from "./strips";
import type { Viewport } from "./viewport";

/** What draws a layer; nothing of what cannot be drawn without measures, as long as there are none. */
type Draw = (shown: Shown, measures: Shown | undefined) => Drawn | null;
const measured =
  (draw: (shown: Shown, measures: Shown) => Drawn | null): Draw =>
  (shown, measures) =>
    measures ? draw(shown, measures) : null;
const DRAW: Record<string, Draw> = {
  surface: drawSurface,
  lines: drawLines,
  curves: drawCurves,
  paths: drawCurves,
  net: drawNet,
  cells: drawCells,
  forces: measured(drawForces),
  reactions: measured(drawReactions),
  members: drawMembers,
  nodes: drawNodes,
  bodies: drawBodies,
  panels: drawPanels,
  ribs: drawRibs,
  strips: drawStrips,
  unrolled: drawUnrolled,
  solids: drawSolids,
  nodePlates: drawSolids,
  endPlates: drawSolids,
  hubs: drawSolids,
  templates: drawTemplates,
  wraps: drawTemplates,
  // Written over the picture.
  labels: () => null,
};

/** What draws a layer of a name. */
export const drawerOf = (layer: string): Draw => DRAW[layer] ?? drawPlain;

/** Layers that bars of forces stand in the place of; no cell may cover part of one. */
const UNDER_FORCES = ["members", "net", "nodes", "bodies", "cells", "panels", "strips", "unrolled"];
/** What tells the edges and the cells of a net apart. */
const MARKS_OF: Partial<Record<Layer, string>> = { net: "marks", cells: "cellMarks" };
const MARK_COLOURS = [PALETTE.main, PALETTE.second, PALETTE.third];

export interface Legend {
  title: string;
  unit: string;
  low: number;
  high: number;
  even?: boolean;
  note?: string;
  /** Words with their colours, where there is no ramp. */
  words?: [string, string][];
}

export interface Source {
  clause: string;
  shown: Shown;
}

/** What is shown of each clause, in their order. */
export function sources(live: Live): Source[] {
  return (live.statement?.clauses ?? []).flatMap((c) => {
    const outcome = live.outcomes[c.id];
    const shown = outcome?.status === "done" && !c.off ? live.geometry.get(outcome.key) : undefined;
    return shown ? [{ clause: c.id, shown }] : [];
  });
}

let steps = 0;

/** The same, with a net that is being moved where it is at the moment, and without what it was before. */
function inMotion(live: Live, all: Source[]): Source[] {
  const { moving } = live;
  if (!moving) return all;
  const after = live.statement?.clauses.findIndex((c) => c.id === moving.clause) ?? -1;
  const hidden = new Set(live.statement?.clauses.slice(after).map((c) => c.id));
  return all.flatMap(({ clause, shown }) => {
    if (hidden.has(clause)) return [];
    const same = shown.arrays.positions?.length === moving.positions.length;
    if (clause !== moving.source || !same) return [{ clause, shown }];
    steps += 1;
    const arrays = { ...shown.arrays, positions: moving.positions };
    return [{ clause, shown: { ...shown, key: `${shown.key} ${steps}`, arrays } }];
  });
}

/** Clauses that another one shown stands for, and those of them that it stands for as one of their own type. */
export function stoodFor(live: Live, all: Source[]): { hidden: Set<string>; gone: Set<string> } {
  const typeOf = new Map(all.map((s) => [s.clause, s.shown.of]));
  const hidden = new Set<string>();
  const gone = new Set<string>();
  for (const { clause, shown } of all)
    for (const other of live.outcomes[clause]?.stands_for ?? []) {
      hidden.add(other);
      if (typeOf.get(other) === shown.of) gone.add(other);
    }
  return { hidden, gone };
}

/** Places of each layer that a fit looks at, besides those that lie furthest out. */
const PLACES = 600;
const OUTWARD = [1, -1].flatMap((s) =>
  [
    [s, 0, 0],
    [0, s, 0],
    [0, 0, s],
    [s, s, s],
    [s, -s, s],
    [-s, s, s],
    [-s, -s, s],
  ].map((d) => new Vector3(...d)),
);

/** Some of a layer's places: every so many, and those furthest out, so that no tip is missed. */
function placesToFit(positions: Shown["arrays"][string]): Vector3[] {
  const count = positions.length / 3;
  const every = Math.ceil(count / PLACES);
  const far = OUTWARD.map(() => -Infinity);
  const furthest = OUTWARD.map(() => 0);
  for (let i = 0; i < count; i++) {
    const [x, y, z] = [positions[3 * i]!, positions[3 * i + 1]!, positions[3 * i + 2]!];
    OUTWARD.forEach((d, k) => {
      const reach = d.x * x + d.y * y + d.z * z;
      if (reach > far[k]!) [far[k], furthest[k]] = [reach, i];
    });
  }
  const some = Array.from({ length: Math.ceil(count / every) }, (_, k) => k * every);
  return [...some, ...furthest].map((i) => at(positions, i));
}

/** The layer a figure, or its sides, is to be seen on. */
const layerColoured = (colourBy: ColourBy): Layer =>
  colourBy === "side" ? "surface" : (measureOf(colourBy)?.layer ?? "");

/** Whether a layer of a result is drawn: wanted, coloured, or as nothing stands for the result. */
export function isSeen(
  layer: LayerSaid,
  shown: Shown,
  wanted: Record<Layer, boolean>,
  coloured: Layer,
  hidden: boolean,
): boolean {
  if (layer.over) {
    const under = layersOf(shown.of).find((l) => l.name === layer.over);
    return Boolean(wanted[layer.name] && under && isSeen(under, shown, wanted, coloured, hidden));
  }
  if (coloured === "forces") {
    if (UNDER_FORCES.includes(layer.name)) return false;
    if (layer.name === "forces" || layer.name === "reactions") return true;
  }
  if (wanted[layer.name] || layer.name === coloured) return true;
  // Cells would cover the bands of a weave, and a shape that is coloured below them.
  const covers = layer.name === "cells" && (coloured === "surface" || Boolean(shown.arrays.bands));
  return layer.alone && !hidden && !covers;
}

const drawnKeys = new WeakMap<Viewport, Map<string, string>>();

/** Draws the layers asked for, anew only where their geometry changed. Tells whether there was nothing before. */
export function syncLayers(
  view: Viewport,
  live: Live,
  wanted: Record<Layer, boolean>,
  colourBy: ColourBy,
): boolean {
  const have = drawnKeys.get(view) ?? new Map<string, string>();
  drawnKeys.set(view, have);
  const first = view.extent.isEmpty();
  const box = new Box3();
  const places: Vector3[] = [];
  const keep = new Set<string>();
  const all = inMotion(live, sources(live));
  const { hidden, gone } = stoodFor(live, all);
  // Solids that know their sides tell more than the shape within them.
  const told = colourBy === "side" && all.some(({ shown }) => shown.arrays.pointSide);
  const coloured = told ? "solids" : layerColoured(colourBy);
  for (const { clause, shown } of all) {
    if (gone.has(clause)) continue;
    const positions = shown.arrays.positions;
    // Bent members reach further than their ends.
    for (const reached of [positions, shown.arrays.axis])
      if (reached?.length && !hidden.has(clause)) {
        box.union(new Box3().setFromArray(reached as Float32Array));
        places.push(...placesToFit(reached));
      }
    const seen = (layer: LayerSaid) => isSeen(layer, shown, wanted, coloured, hidden.has(clause));
    for (const layer of layersOf(shown.of)) {
      if (!positions || !seen(layer)) continue;
      const name = `${clause}/${layer.name}`;
      keep.add(name);
      const measures = live.measures.get(shown.key);
      const key = layer.measured ? `${shown.key} ${measures ? "measured" : ""}` : shown.key;
      if (have.get(name) === key) continue;
      view.setLayer(name, drawerOf(layer.name)(shown, measures));
      have.set(name, key);
    }
  }
  for (const name of [...have.keys()])
    if (!keep.has(name)) {
      view.setLayer(name, null);
      have.delete(name);
    }
  view.extent = box;
  view.places = places;
  return first && !box.isEmpty();
}

/** What each drawn thing was painted by last; painted alike again it needs no new picture. */
const paintedBy = new WeakMap<Drawn, unknown[]>();

function painted(drawn: Drawn, by: unknown[]): boolean {
  const last = paintedBy.get(drawn);
  paintedBy.set(drawn, by);
  return last !== undefined && by.every((x, k) => x === last[k]);
}

const wordsOfMarks = (): [string, string][] => catalogue().marks.map((word, m) => [word, MARK_COLOURS[m]!]);

const legendOf = (by: Measure, low: number, high: number, even: boolean): Legend => ({
  title: capital(by.title),
  unit: by.unit,
  low: low * by.scale,
  high: high * by.scale,
  even,
  note: by.note,
});

/** The colour of a word: that it was told by before, or the next one. */
function colourOfWord(told: Map<string, string>, word: string): string {
  const found = told.get(word) ?? kindColour(told.size);
  told.set(word, found);
  return found;
}

/** The numbers of things, by `clause/kind`. */
function byResult(items: ReadonlySet<Item>): Map<string, number[]> {
  const found = new Map<string, number[]>();
  for (const id of items) {
    const { clause, kind, index } = parts(id);
    const key = `${clause}/${kind}`;
    const own = found.get(key);
    if (own) own.push(index);
    else found.set(key, [index]);
  }
  return found;
}

/** Colours by a figure, picked things in plum, those pointed at lighter; gives the legend. */
export function paint(
  view: Viewport,
  live: Live,
  colourBy: ColourBy,
  selected: ReadonlySet<Item>,
  pointed: ReadonlySet<Item> = new Set(),
): Legend | null {
  const picked = byResult(selected);
  const litUp = byResult(pointed);
  const by = measureOf(colourBy);
  let legend: Legend | null = null;
  // Colours that stand for figures are told apart best without them.
  let changed = finishesShown() !== !by;
  showFinishes(!by);
  /** Words that were met so far, and their colours: the same in all results. */
  const told = new Map<string, string>();
  for (const { clause, shown } of sources(live))
    for (const { name: layer, thing } of layersOf(shown.of)) {
      const drawn = view.layer(`${clause}/${layer}`);
      if (!drawn) continue;
      const mine = picked.get(`${clause}/${thing}`);
      const lit = litUp.get(`${clause}/${thing}`);
      const paintedFor = [colourBy, live.measures.get(shown.key), mine?.join(), lit?.join()];
      const fresh = !painted(drawn, paintedFor);
      changed ||= fresh;
      if (drawn.shade) legend = shadeShape(live, shown, drawn.shade, colourBy) ?? legend;
      let colours: (Color | null)[] | null = null;
      const values = by?.layer === layer ? live.measures.get(shown.key)?.arrays[by.name] : undefined;
      const words = by?.words ? shown.meta.words?.[by.words] : undefined;
      if (by && values && words) {
        colours = Array.from(values, (k) => new Color(colourOfWord(told, words[k]!)));
        legend = { title: capital(by.title), unit: "", low: 0, high: 1, words: [...told] };
      } else if (by && values) {
        const [least, most] = extent(values);
        // About nothing only where there is something on both sides of it.
        const even = by.even && least < 0 && most > 0;
        const bound = even ? evenBound(values) : 0;
        const [low, high] = even ? [-bound, bound] : [least, most];
        colours = rampColours(values, low, high, even ? divergingRamp : ramp);
        legend = legendOf(by, low, high, even);
      }
      // Marks show as soon as there are some, until another colour is chosen.
      const isMarked = colourBy === "mark" || colourBy === "none";
      const marks = isMarked ? shown.arrays[MARKS_OF[layer] ?? ""] : undefined;
      if (marks) {
        colours = Array.from(marks, (m) => (m ? new Color(MARK_COLOURS[m - 1]) : null));
        legend = {
          title: "Marks",
          unit: "",
          low: 0,
          high: 1,
          words: wordsOfMarks().filter((_, m) => marks.includes((m + 1) as never)),
        };
      }
      for (const [rows, colour] of [
        [lit, PALETTE.lit],
        [mine, PALETTE.plum],
      ] as const) {
        if (!rows) continue;
        colours = colours ? [...colours] : [];
        for (const i of rows) colours[i] = new Color(colour);
      }
      if (fresh) drawn.paint(colours);
      if (colourBy === "side" && drawn.tellSides?.(fresh)) legend = legendOfSides(true);
    }
  if (changed) view.draw();
  return legend;
}

function legendOfSides(between: boolean): Legend {
  const words: [string, string][] = [
    ["outside", PALETTE.outside],
    ["inside", PALETTE.inside],
  ];
  if (between) words.push(["between", PALETTE.between]);
  return { title: between ? "Sides" : "Sides of the shape", unit: "", low: 0, high: 1, words };
}

/** Colours the points of a shape by a figure, or tells its sides apart; gives the legend. */
function shadeShape(
  live: Live,
  shown: Shown,
  shade: NonNullable<Drawn["shade"]>,
  colourBy: ColourBy,
): Legend | null {
  if (colourBy === "side") {
    shade(null, true);
    return legendOfSides(false);
  }
  const by = measureOf(colourBy);
  const values = by?.layer === "surface" ? live.measures.get(shown.key)?.arrays[by.name] : undefined;
  if (!by || !values) {
    shade(null);
    return null;
  }
  const bound = by.even ? evenBound(values) : 0;
  const [low, high] = by.bounds ?? (by.even ? [-bound, bound] : extent(values));
  shade(rampColours(values, low, high, by.even ? divergingRamp : ramp));
  return legendOf(by, low, high, by.even);
}
