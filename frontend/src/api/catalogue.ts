/** What there is to see, measure, list and deliver, as the server says. It is there before anything is drawn. */
import { answered, api, type Schemas } from "./client";

export type Catalogue = Schemas["Catalogue"];
export type ResultType = Schemas["ResultTypeMessage"];
export type Layer = Schemas["LayerMessage"];
export type Measure = Schemas["MeasureMessage"] & {
  /** Told from others by the type of its results, too. */
  key: string;
  type: string;
};

const NOTHING: Catalogue = { types: [], schedules: [], pack_groups: [], marks: [], units: [], materials: [] };
let known = NOTHING;
let layersByName = new Map<string, Layer>();
let typesByName = new Map<string, ResultType>();
let everyMeasure: Measure[] = [];

export function setCatalogue(catalogue: Catalogue) {
  known = catalogue;
  typesByName = new Map(catalogue.types.map((t) => [t.name, t]));
  layersByName = new Map(catalogue.types.flatMap((t) => t.layers.map((l) => [l.name, l])));
  everyMeasure = catalogue.types.flatMap((t) =>
    t.measures.map((m) => ({ ...m, key: `${t.name}/${m.name}`, type: t.name })),
  );
}

export async function loadCatalogue() {
  setCatalogue((await answered(api.GET("/api/catalogue"))) as unknown as Catalogue);
}

export const catalogue = (): Catalogue => known;
export const layersOf = (type: string): Layer[] => typesByName.get(type)?.layers ?? [];
/** What results of a type are called. */
export const typeTitle = (type: string): string => typesByName.get(type)?.title ?? "";
/** Whether one can pick things of a kind in a type of results. */
export const hasThing = (type: string, thing: string): boolean =>
  typesByName.get(type)?.things.includes(thing) ?? false;
/** The type whose figures stand in the place of this one's, once there are some. */
export const toldUntil = (type: string): string => typesByName.get(type)?.told_until ?? "";
export const allLayers = (): Layer[] => [...layersByName.values()];
export const layerNamed = (name: string): Layer | undefined => layersByName.get(name);
export const measures = (): Measure[] => everyMeasure;
export const measureOf = (key: string): Measure | undefined => everyMeasure.find((m) => m.key === key);
/** The measure that colours a layer first. */
export const measureOn = (layer: string): string => everyMeasure.find((m) => m.layer === layer)?.key ?? "";
/** Figures that add up over things of a kind. */
export const totalsOf = (thing: string): Measure[] =>
  everyMeasure.filter((m) => m.total && m.thing === thing);
/** The schedule that tells all about a thing. */
export const scheduleOf = (thing: string): string =>
  known.schedules.find((s) => s.thing === thing)?.name ?? known.schedules[0]?.name ?? "";
