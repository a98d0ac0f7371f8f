/** A small square of each kind of thing, drawn where nobody looks: what the graphics make ready for a kind is there, then,
 * when a project of it is opened. */
import type { Meta, SectionShape, Shown } from "../live/decode";
import { drawerOf } from "./model";
import type { Viewport } from "./viewport";

const ROUND = [0, 1, 2, 3];
const SIDES = Uint16Array.from(ROUND.flatMap((k) => [k, (k + 1) % 4]));
const COLOUR: [number, number, number] = [128, 128, 128];
const NO_PLANE = -128;

/** A square of a metre by its corners, sides and triangles, in the words of every layer. */
const SQUARE = {
  positions: Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]),
  normals: Int8Array.from(ROUND.flatMap(() => [0, 0, 127])),
  triangles: Uint16Array.from([0, 1, 2, 0, 2, 3]),
  owner: Uint32Array.from([0, 0]),
  borders: SIDES,
  lines: SIDES,
  edges: SIDES,
  border: Uint8Array.of(0b0101),
  corners: Uint16Array.from(ROUND),
  counts: Uint16Array.of(4),
  sheetOf: Uint16Array.of(0),
  pieces: SIDES,
  setBacks: new Uint16Array(8),
  ups: new Int8Array(8),
  sectionOf: Uint8Array.of(0),
};
const CUT = { ...SQUARE, cutNormals: new Int8Array(32).fill(NO_PLANE) };

const section = (finish: string): SectionShape => ({
  name: "",
  round: false,
  look: COLOUR,
  finish,
  outlines: [
    [
      [-0.1, -0.1],
      [0.1, -0.1],
      [0.1, 0.1],
      [-0.1, 0.1],
    ],
  ],
  lift: 0,
  edge: false,
});

const shown = (arrays: Shown["arrays"], meta: Meta = {}): Shown => ({
  type: "geometry",
  key: "",
  of: "",
  arrays,
  meta,
});

/** By layers; what most models have comes first. */
const SAMPLES: [layer: string, Shown][] = [
  ["members", shown(SQUARE, { sections: [section("timber")] })],
  ["panels", shown(SQUARE, { looks: [COLOUR], finishes: ["timber"], clear: [false] })],
  ["surface", shown(SQUARE)],
  ["net", shown(SQUARE)],
  ["members", shown(SQUARE, { sections: [section("metal")] })],
  ["nodes", shown(SQUARE)],
  ["panels", shown(SQUARE, { looks: [COLOUR], finishes: ["glass"], clear: [true] })],
  ["members", shown(CUT, { sections: [section("timber")] })],
  ["members", shown(CUT, { sections: [section("metal")] })],
  ["ribs", shown(SQUARE, { labels: ["A"], finishes: ["timber"] })],
];

/** Draws the samples in a view that is not seen yet, as soon as there is nothing else to be done. */
export function rehearse(view: Pick<Viewport, "rehearse">) {
  const things = SAMPLES.map(
    ([layer, sample]) =>
      () =>
        drawerOf(layer)(sample, undefined),
  );
  requestIdleCallback(() => view.rehearse(things));
}
