/** Ribs, strips and unrolled parts on their way between their places and their sheets, and put together one by one. */
import {
  BufferGeometry,
  Float32BufferAttribute,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Quaternion,
  Vector3,
} from "three";
import type { Shown } from "../live/decode";
import type { Live } from "../live/live";
import { middlesOf } from "./middles";
import { type Source, sources } from "./model";
import { PALETTE } from "./palette";
import type { Viewport } from "./viewport";

/** The layers of what flies, by types of results. */
const FLYING: Record<string, string> = { Ribs: "ribs", Strips: "strips", Unrolled: "unrolled" };

/** Ribs, strips or unrolled parts with the sheets they are set out on, and how many parts of others come before theirs there. */
export interface Flight {
  parts: Source;
  sheets: Shown;
  before: number;
}

/** All ribs, strips and unrolled parts of a statement that are set out on sheets. */
export function flights(live: Live): Flight[] {
  const all = sources(live);
  const placeIn = (sheets: Source, parts: Source) =>
    live.outcomes[sheets.clause]?.inputs.parts?.indexOf(parts.clause) ?? -1;
  return all.flatMap((parts) => {
    const own = all.filter((s) => s.shown.of === "Sheets" && placeIn(s, parts) >= 0).at(-1);
    if (!FLYING[parts.shown.of] || !own) return [];
    const earlier = own.shown.meta.partsOf?.slice(0, placeIn(own, parts)) ?? [];
    return [{ parts, sheets: own.shown, before: earlier.reduce((a, b) => a + b, 0) }];
  });
}

const GAP_MM = 250;
/** How much later the last part leaves than the first, as a share of a flight. */
const ONE_BY_ONE = 1.2;
/** A part coming in starts this share of the model's size away. */
const COMING = 0.6;

/** Lower left corners (m) of sheets laid out beside the model, row by row. */
function cornersOfSheets(view: Viewport, { meta }: Shown): Vector3[] {
  const { widths = [], heights = [] } = meta;
  const wide = (Math.max(...widths, 1) + GAP_MM) / 1000;
  const high = (Math.max(...heights, 1) + GAP_MM) / 1000;
  const columns = Math.max(1, Math.round(Math.sqrt((widths.length * high) / wide)));
  const rows = Math.ceil(widths.length / columns);
  const { min, max } = view.extent;
  const x = max.x + Math.max((max.x - min.x) * 0.15, 0.3);
  const y = (min.y + max.y) / 2 + (rows * high) / 2;
  return widths.map(
    (_, k) => new Vector3(x + (k % columns) * wide, y - (Math.floor(k / columns) + 1) * high, min.z),
  );
}

/** Takes a part from where it stands to where it lies on its sheet. */
function ontoSheet(sheets: Shown, part: number, corners: Vector3[]): Matrix4 | null {
  const { lie, pose, sheetOfPart } = sheets.arrays;
  const corner = corners[sheetOfPart?.[part] ?? -1];
  if (!corner || !lie || !pose) return null;
  const p = Array.from(pose.slice(12 * part, 12 * part + 12));
  const stands = new Matrix4().set(...(p as Twelve), 0, 0, 0, 1);
  const turn = (lie[3 * part + 2]! * Math.PI) / 180;
  const lies = new Matrix4()
    .makeTranslation(corner.x + lie[3 * part]! / 1000, corner.y + lie[3 * part + 1]! / 1000, corner.z)
    .multiply(new Matrix4().makeRotationZ(turn))
    .multiply(new Matrix4().makeScale(0.001, 0.001, 0.001));
  return lies.multiply(stands.invert());
}
type Twelve = [
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
  number,
];

const smooth = (t: number) => t * t * (3 - 2 * t);

/** Part of the way along a rigid motion, about a middle, in an arc. */
function partWay(whole: Matrix4, middle: Vector3, t: number, rise: number): Matrix4 {
  const turn = new Quaternion().setFromRotationMatrix(new Matrix4().extractRotation(whole));
  const at = middle.clone().lerp(middle.clone().applyMatrix4(whole), t);
  at.z += rise * Math.sin(Math.PI * t);
  return new Matrix4()
    .makeTranslation(at)
    .multiply(new Matrix4().makeRotationFromQuaternion(new Quaternion().slerp(turn, t)))
    .multiply(new Matrix4().makeTranslation(middle.clone().negate()));
}

const NOWHERE = new Matrix4().makeScale(0, 0, 0);

/** Moves parts: `apart` from 0 in their places to 1 on their sheets, and so many of them put `together`, the last one still
 * coming in by what is left of it. */
export function fly(view: Viewport, live: Live, apart: number, together: number | null) {
  const all = flights(live);
  for (const { parts, sheets, before } of all) {
    const drawn = view.layer(`${parts.clause}/${FLYING[parts.shown.of]}`);
    const labels = parts.shown.meta.labels ?? [];
    if (!drawn?.carry) continue;
    if (apart === 0 && together === null) {
      if (drawn.carry(null)) view.draw();
      continue;
    }
    const middles = middlesOf(parts.shown, labels.length);
    const order = Array.from(parts.shown.arrays.order ?? []);
    const rank = new Map(order.map((k, n) => [k, n]));
    const size = view.extent.getSize(new Vector3()).length();
    const corners = cornersOfSheets(view, sheets);
    const unbent = labels.map(() => 0);
    drawn.carry(
      labels.map((_, k) => {
        const n = rank.get(k) ?? order.length;
        if (together !== null && apart === 0) {
          if (n >= together) return NOWHERE;
          const left = Math.max(0, n + 1 - together);
          const ways = parts.shown.arrays.ways;
          const way = new Vector3(ways?.[3 * n], ways?.[3 * n + 1], ways?.[3 * n + 2]);
          if (way.lengthSq() === 0) way.set(0, 0, -1);
          return new Matrix4().makeTranslation(way.multiplyScalar(-left * size * COMING));
        }
        const whole = ontoSheet(sheets, before + k, corners);
        if (!whole) return null;
        // Those put in last leave first.
        const late = order.length > 1 ? 1 - n / (order.length - 1) : 0;
        const t = Math.min(Math.max(apart * (1 + ONE_BY_ONE) - ONE_BY_ONE * late, 0), 1);
        // It is flat before it is down.
        unbent[k] = smooth(Math.min(1, 1.6 * t));
        return partWay(whole, middles[k]!, smooth(t), size * 0.25);
      }),
      unbent,
    );
    view.draw();
  }
  layOut(view, all, apart);
}

/** Draws the sheets beside the model while parts fly. */
function layOut(view: Viewport, all: Flight[], apart: number) {
  if (apart === 0) {
    view.setLayer("sheets/outlines", null);
    return;
  }
  const places: number[] = [];
  for (const { sheets } of all)
    cornersOfSheets(view, sheets).forEach((c, k) => {
      const [w, h] = [sheets.meta.widths![k]! / 1000, sheets.meta.heights![k]! / 1000];
      const ring = [
        [0, 0],
        [w, 0],
        [w, h],
        [0, h],
        [0, 0],
      ];
      for (let i = 0; i < 4; i++)
        for (const [x, y] of [ring[i]!, ring[i + 1]!]) places.push(c.x + x!, c.y + y!, c.z);
    });
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new Float32BufferAttribute(places, 3));
  const object = new LineSegments(geometry, new LineBasicMaterial({ color: PALETTE.bandEdge }));
  view.setLayer("sheets/outlines", { object, paint: () => {} });
}

/** The model and all its sheets, to be looked at together. */
export function wholeFlight(view: Viewport, live: Live) {
  const box = view.extent.clone();
  for (const { sheets } of flights(live))
    cornersOfSheets(view, sheets).forEach((c, k) => {
      box.expandByPoint(c);
      const size = new Vector3(sheets.meta.widths![k]! / 1000, sheets.meta.heights![k]! / 1000, 0);
      box.expandByPoint(c.clone().add(size));
    });
  return box;
}
