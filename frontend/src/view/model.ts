/** Keeps what the view draws in step with what the server said. */
import { Box3, Color, Vector3 } from "three";
import type { Shown } from "../live/decode";
import { taken } from "../live/inputs";
import type { Live } from "../live/live";
import { type ColourBy, type Item, type Layer, parts, type Thing } from "../state/view";
import { drawForces, drawReactions } from "./forces";
import { at, type Drawn, drawCurves, drawLines, drawMembers, drawNodes, drawSurface } from "./layers";
import { drawCells, drawNet, drawPanels } from "./nets";
import { divergingRamp, evenBound, extent, PALETTE, ramp, rampColours } from "./palette";
import { drawRibs } from "./ribs";
import type { Viewport } from "./viewport";

/** Which layers the geometry of a clause can be drawn as. */
type Draw = (shown: Shown, measures: Shown | undefined) => Drawn | null;
const measured =
  (draw: (shown: Shown, measures: Shown) => Drawn | null): Draw =>
  (shown, measures) =>
    measures ? draw(shown, measures) : null;
const DRAW: Record<string, Partial<Record<Layer, Draw>>> = {
  surface: { surface: drawSurface, lines: drawLines },
  curves: { curves: drawCurves },
  net: {
    net: drawNet,
    cells: drawCells,
    forces: measured(drawForces),
    reactions: measured(drawReactions),
  },
  frame: { members: drawMembers, nodes: drawNodes },
  panels: { panels: drawPanels },
  ribs: { ribs: drawRibs },
};
/** Layers that are drawn from measures too. */
const MEASURED: Layer[] = ["forces", "reactions"];
export const THING_OF_LAYER: Partial<Record<Layer, Thing>> = {
  members: "member",
  nodes: "node",
  panels: "panel",
  ribs: "rib",
};
interface Coloured {
  layer: Layer;
  measure: string;
  scale: number;
  unit: string;
  title: string;
  /** Bounds that do not follow the values. */
  bounds?: [number, number];
  /** For figures on either side of nothing. */
  even?: boolean;
  note?: string;
}

/** Colours that tell kinds apart rather than follow a figure. */
type Told = "none" | "side" | "mark";
export const COLOURED: Record<Exclude<ColourBy, Told>, Coloured> = {
  slope: {
    layer: "surface",
    measure: "slope",
    scale: 1,
    unit: "° from level",
    title: "Slope",
    bounds: [0, 90],
  },
  gauss: {
    layer: "surface",
    measure: "gauss",
    scale: 1,
    unit: "1/m²",
    title: "Gaussian curvature",
    even: true,
  },
  mean: { layer: "surface", measure: "mean", scale: 1, unit: "1/m", title: "Mean curvature", even: true },
  length: { layer: "members", measure: "length", scale: 1, unit: "m", title: "Member length, node to node" },
  edge: { layer: "net", measure: "edgeLength", scale: 1, unit: "m", title: "Edge length" },
  edgeForce: {
    layer: "forces",
    measure: "edgeForce",
    scale: 1,
    unit: "kN, compression below 0",
    title: "Edge force",
    even: true,
    note: "thicker: more; whole bars: tension, broken: compression; arrows: reactions",
  },
  cellArea: { layer: "cells", measure: "cellArea", scale: 1, unit: "m²", title: "Cell area" },
  cellAngle: { layer: "cells", measure: "cellAngle", scale: 1, unit: "°", title: "Smallest angle of a cell" },
  cellFlatness: { layer: "cells", measure: "cellFlatness", scale: 1000, unit: "mm", title: "Cell flatness" },
  flatness: { layer: "panels", measure: "flatness", scale: 1000, unit: "mm", title: "Panel flatness" },
};

const figureOf = (colourBy: ColourBy): Coloured | null =>
  colourBy === "none" || colourBy === "side" || colourBy === "mark" ? null : COLOURED[colourBy];

const MARKS_OF: Partial<Record<Layer, string>> = { net: "marks", cells: "cellMarks" };
const MARK_COLOURS: [string, string][] = [
  ["main", PALETTE.main],
  ["second", PALETTE.second],
  ["third", PALETTE.third],
];

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

/** All clauses that one stands on. */
function below(live: Live, clause: string, into = new Set<string>()): Set<string> {
  for (const source of taken(live.outcomes[clause]))
    if (!into.has(source)) below(live, source, into.add(source));
  return into;
}

/** Clauses whose shape, net or curves another clause has changed; the changed ones stand in their place. Of a net laid on
 * the shape of another net, too, only the last is seen. */
function replaced(live: Live, all: Source[]): Set<string> {
  const layerOf = new Map(all.map((s) => [s.clause, s.shown.layer]));
  const out = new Set<string>();
  for (const { clause, shown } of all)
    if (shown.layer === "surface" || shown.layer === "curves" || shown.layer === "net")
      for (const source of taken(live.outcomes[clause]))
        if (layerOf.get(source) === shown.layer) out.add(source);
  for (const { clause, shown } of all)
    if (shown.layer === "net")
      for (const source of below(live, clause)) if (layerOf.get(source) === "net") out.add(source);
  return out;
}

/** Clauses that share an origin with a net: their shapes would hide it, others stand beside it. */
function behindNets(live: Live, all: Source[]): Set<string> {
  const family = new Map<string, string>();
  const root = (id: string): string => {
    const up = family.get(id) ?? id;
    return up === id ? id : root(up);
  };
  for (const [id, outcome] of Object.entries(live.outcomes))
    for (const source of taken(outcome)) family.set(root(id), root(source));
  const nets = new Set(all.filter((s) => s.shown.layer === "net").map((s) => root(s.clause)));
  return new Set(all.filter((s) => nets.has(root(s.clause))).map((s) => s.clause));
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
  const frames = all.some((s) => s.shown.layer === "frame" || s.shown.layer === "ribs");
  const nets = all.some((s) => s.shown.layer === "net");
  const gone = replaced(live, all);
  const onShape = colourBy === "side" || figureOf(colourBy)?.layer === "surface";
  // Before there is a frame the net stands for it, and before that the shape; one that is coloured is always seen.
  const standIns: Layer[] = ["curves"];
  if (nets) standIns.push("net");
  const woven = all.some((s) => !gone.has(s.clause) && s.shown.arrays.bands);
  if (!nets || onShape) standIns.push("surface");
  else if (!woven) standIns.push("cells");
  const forces = colourBy === "edgeForce";
  const seen = (layer: Layer) => {
    // Bars of forces stand in the place of members and edges, and no cell may cover part of one.
    if (forces && (["members", "net", "nodes", "cells", "panels"] as Layer[]).includes(layer)) return false;
    if (forces && (layer === "forces" || layer === "reactions")) return true;
    return wanted[layer] || (!frames && standIns.includes(layer));
  };
  const behind = behindNets(live, all);
  const beside = (clause: string, layer: Layer) => layer === "surface" && !frames && !behind.has(clause);
  for (const { clause, shown } of all) {
    if (gone.has(clause)) continue;
    const positions = shown.arrays.positions;
    const drawing = shown.layer === "surface" || shown.layer === "curves";
    if (positions && (!drawing || (!frames && (!nets || beside(clause, shown.layer as Layer))))) {
      box.union(new Box3().setFromArray(positions as Float32Array));
      places.push(...placesToFit(positions));
    }
    for (const [layer, draw] of Object.entries(DRAW[shown.layer] ?? {})) {
      const asked = (l: Layer) => seen(l) || beside(clause, l);
      if (layer === "lines" ? !wanted.lines || !asked("surface") : !asked(layer as Layer)) continue;
      const name = `${clause}/${layer}`;
      keep.add(name);
      const measures = live.measures.get(shown.key);
      const key = MEASURED.includes(layer as Layer)
        ? `${shown.key} ${measures ? "measured" : ""}`
        : shown.key;
      if (have.get(name) === key) continue;
      view.setLayer(name, draw(shown, measures));
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

/** Colours by a figure, picked things in plum; gives the legend. */
export function paint(
  view: Viewport,
  live: Live,
  colourBy: ColourBy,
  selected: ReadonlySet<Item>,
): Legend | null {
  const picked = new Map<string, number[]>();
  for (const id of selected) {
    const { clause, kind, index } = parts(id);
    const key = `${clause}/${kind}`;
    picked.set(key, [...(picked.get(key) ?? []), index]);
  }
  const by = figureOf(colourBy);
  let legend: Legend | null = null;
  let changed = false;
  for (const { clause, shown } of sources(live))
    for (const layer of Object.keys(DRAW[shown.layer] ?? {}) as Layer[]) {
      const drawn = view.layer(`${clause}/${layer}`);
      const thing = THING_OF_LAYER[layer];
      if (!drawn) continue;
      const mine = picked.get(`${clause}/${thing}`);
      const fresh = !painted(drawn, [colourBy, live.measures.get(shown.key), mine?.join()]);
      changed ||= fresh;
      if (drawn.shade) legend = shadeShape(live, shown, drawn.shade, colourBy) ?? legend;
      let colours: (Color | null)[] | null = null;
      const values = by?.layer === layer ? live.measures.get(shown.key)?.arrays[by.measure] : undefined;
      if (by && values) {
        const [least, most] = extent(values);
        // About nothing only where there is something on both sides of it.
        const even = by.even && least < 0 && most > 0;
        const bound = even ? evenBound(values) : 0;
        const [low, high] = even ? [-bound, bound] : [least, most];
        colours = rampColours(values, low, high, even ? divergingRamp : ramp);
        legend = {
          title: by.title,
          unit: by.unit,
          low: low * by.scale,
          high: high * by.scale,
          even: even ?? false,
          note: by.note,
        };
      }
      // Marks show as soon as there are some, until another colour is chosen.
      const told = colourBy === "mark" || colourBy === "none";
      const marks = told ? shown.arrays[MARKS_OF[layer] ?? ""] : undefined;
      if (marks) {
        colours = Array.from(marks, (m) => (m ? new Color(MARK_COLOURS[m - 1]![1]) : null));
        legend = {
          title: "Marks",
          unit: "",
          low: 0,
          high: 1,
          words: MARK_COLOURS.filter((_, m) => marks.includes((m + 1) as never)),
        };
      }
      const plum = new Color(PALETTE.plum);
      if (mine) {
        colours = colours ? [...colours] : [];
        for (const i of mine) colours[i] = plum;
      }
      if (fresh) drawn.paint(colours);
    }
  if (changed) view.draw();
  return legend;
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
    const words: [string, string][] = [
      ["outside", PALETTE.outside],
      ["inside", PALETTE.inside],
    ];
    return { title: "Sides of the shape", unit: "", low: 0, high: 1, words };
  }
  const by = figureOf(colourBy);
  const values = by?.layer === "surface" ? live.measures.get(shown.key)?.arrays[by.measure] : undefined;
  if (!by || !values) {
    shade(null);
    return null;
  }
  const bound = by.even ? evenBound(values) : 0;
  const [low, high] = by.bounds ?? (by.even ? [-bound, bound] : extent(values));
  shade(rampColours(values, low, high, by.even ? divergingRamp : ramp));
  return { title: by.title, unit: by.unit, low: low * by.scale, high: high * by.scale, even: by.even };
}
