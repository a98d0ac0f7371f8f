import { createStore, type StoreApi } from "zustand";
import { allLayers } from "../api/catalogue";
import type { Spread } from "../view/apart";
import type { Cut } from "../view/cutting";

/** What a layer is of, by its word in the catalogue. */
export type Thing = string;

/** A single thing in the view: `clause/kind/number`, the number being its position in the clause's result. */
export type Item = string;

export const item = (clause: string, kind: Thing, index: number): Item => `${clause}/${kind}/${index}`;

export function parts(id: Item): { clause: string; kind: Thing; index: number } {
  const [clause, kind, index] = id.split("/");
  return { clause: clause!, kind: kind as Thing, index: Number(index) };
}

/** A layer by its name in the catalogue. */
export type Layer = string;
/** A measure by its key in the catalogue, or what tells kinds apart. */
export type ColourBy = string;
export type Look = "oblique" | "plan" | "x" | "y";
export type Tool = "pick" | "measure";

export interface ViewState {
  shown: Record<Layer, boolean>;
  colourBy: ColourBy;
  look: Look;
  tool: Tool;
  /** Section cut: axis and its place as a share of the model's extent. */
  cut: Cut | null;
  /** How things are shown apart from each other, if they are. */
  spread: Spread | null;
  selected: ReadonlySet<Item>;
  /** Things that are shown alone, if any are. */
  alone: ReadonlySet<Item> | null;
  active: string | null;
  /** Clauses that are chosen together, by id. */
  chosen: ReadonlySet<string>;
  /** Things a pointed-at clause or value made. */
  lit: string | null;
  /** Things that a value, a row or a bar governs while it is pointed at. */
  pointed: ReadonlySet<Item>;
  /** The value that is pointed at, as `clause/name`. */
  pointedValue: string | null;
  /** The place a figure tells of while it is pointed at. */
  spot: [number, number, number] | null;
  /** How far ribs are from their places (0) to their sheets (1), and how many are put together; `null` for all. */
  apart: number;
  together: number | null;
  /** The place from which a distance is being measured. */
  begun: [number, number, number] | null;
  goTo: { items: Item[]; at: [number, number, number] | null; count: number } | null;
  /** Chapters and clauses of the statement that are folded, by their keys and ids. */
  folded: ReadonlySet<string>;
  /** Clauses whose sentences are shown to their ends, by id. */
  whole: ReadonlySet<string>;
  set: (change: Partial<ViewState>) => void;
  toggle: (layer: Layer) => void;
  select: (items: Iterable<Item>, add?: boolean) => void;
  show: (items: Item[], at?: [number, number, number] | null) => void;
  fold: (keys: Iterable<string>, closed: boolean) => void;
  /** Lights things while something is pointed at that governs them; nothing any more without any. */
  point: (items?: Iterable<Item>, value?: string | null) => void;
}

const NOTHING: ReadonlySet<Item> = new Set<Item>();

const START = {
  shown: {} as Record<Layer, boolean>,
  colourBy: "none" as ColourBy,
  look: "oblique" as Look,
  tool: "pick" as Tool,
  cut: null,
  spread: null,
  selected: new Set<Item>(),
  alone: null,
  active: null,
  chosen: new Set<string>(),
  lit: null,
  pointed: NOTHING,
  pointedValue: null,
  spot: null,
  apart: 0,
  together: null,
  begun: null,
  goTo: null,
  folded: new Set<string>(),
  whole: new Set<string>(),
};

/** How an opened project is seen; nothing is picked in it yet. */
export const viewingOf = (): StoreApi<ViewState> =>
  createStore<ViewState>((set) => ({
    ...START,
    shown: Object.fromEntries(allLayers().map((l) => [l.name, l.shown])),
    set: (change) => set(change),
    toggle: (layer) => set((s) => ({ shown: { ...s.shown, [layer]: !s.shown[layer] } })),
    select: (items, add = false) =>
      set((s) => {
        if (!add) return { selected: new Set(items) };
        const selected = new Set(s.selected);
        for (const id of items) selected.has(id) ? selected.delete(id) : selected.add(id);
        return { selected };
      }),
    show: (items, at = null) =>
      set((s) => ({ selected: new Set(items), goTo: { items, at, count: (s.goTo?.count ?? 0) + 1 } })),
    point: (items = NOTHING, value = null) => {
      const pointed = new Set(items);
      set({ pointed: pointed.size ? pointed : NOTHING, pointedValue: value });
    },
    fold: (keys, closed) =>
      set((s) => {
        const folded = new Set(s.folded);
        for (const key of keys) closed ? folded.add(key) : folded.delete(key);
        return { folded };
      }),
  }));
