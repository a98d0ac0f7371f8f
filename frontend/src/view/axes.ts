/** Grid axes and levels, by which people name places: numbered along x, lettered along y (ISO 4157-3) */
import { type Box3, Vector3 } from "three";
import type { Schemas } from "../api/client";
import type { Look } from "../state/view";
import { figureText } from "../ui/text";

/** Whether they are shown, how many metres from one to the next along x and along y, 0 for none, and heights of levels. */
export type Axes = Schemas["GridAxes"];

/** An axis or a level as it is drawn: its ends, of which the first bears what it is called. */
export interface AxisLine {
  from: Vector3;
  to: Vector3;
  name: string;
  isLevel: boolean;
}

/** Letters that are not mistaken for numbers. */
const LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ";
const MOST = 60;
/** How far axes reach beyond the model, as a share of its size. */
const BEYOND = 0.08;

/** What the so-manyth axis along y is called, from 0: A to Z, then AA. */
export function letterOf(number: number): string {
  const own = LETTERS[number % LETTERS.length]!;
  return number < LETTERS.length ? own : letterOf(Math.floor(number / LETTERS.length) - 1) + own;
}

/** Places of axes every so many metres that lie within a span, or at its ends. */
export function placesOf(low: number, high: number, every: number): number[] {
  if (!(every > 0)) return [];
  const first = Math.ceil(low / every - 1e-6);
  const count = Math.floor(high / every + 1e-6) - first + 1;
  if (count > MOST) return [];
  return Array.from({ length: Math.max(count, 0) }, (_, k) => (first + k) * every);
}

/** The axes about a model that a look shows: on the ground from above, upright ones and levels from the side. */
export function axisLines(box: Box3, axes: Axes, look: Look): AxisLine[] {
  if (!axes.on || box.isEmpty()) return [];
  const { min, max } = box;
  const out = BEYOND * Math.max(max.x - min.x, max.y - min.y, max.z - min.z);
  const middle = box.getCenter(new Vector3());
  const found: AxisLine[] = [];
  const add = (from: Vector3, to: Vector3, name: string, isLevel = false) =>
    found.push({ from, to, name, isLevel });
  const ground = Math.min(min.z, 0);
  const seesX = look !== "x";
  const seesY = look !== "y";
  if (seesX)
    placesOf(min.x, max.x, axes.x).forEach((x, k) => {
      if (look === "y")
        add(new Vector3(x, middle.y, max.z + out), new Vector3(x, middle.y, min.z - out), `${k + 1}`);
      else add(new Vector3(x, min.y - out, ground), new Vector3(x, max.y + out, ground), `${k + 1}`);
    });
  if (seesY)
    placesOf(min.y, max.y, axes.y).forEach((y, k) => {
      if (look === "x")
        add(new Vector3(middle.x, y, max.z + out), new Vector3(middle.x, y, min.z - out), letterOf(k));
      else add(new Vector3(min.x - out, y, ground), new Vector3(max.x + out, y, ground), letterOf(k));
    });
  if (look === "x" || look === "y")
    for (const z of axes.levels) {
      const along = look === "x" ? "y" : "x";
      const [from, to] = [middle.clone().setZ(z), middle.clone().setZ(z)];
      from[along] = max[along] + out;
      to[along] = min[along] - out;
      add(from, to, levelText(z), true);
    }
  return found;
}

/** A level with its sign, as on drawings. */
export function levelText(z: number): string {
  const sign = Math.abs(z) < 5e-4 ? "±" : z > 0 ? "+" : "−";
  return `${sign}${figureText(Math.abs(z), "m", 3)}`;
}

/** Heights out of a text such as “0; 3.2; 6.4”; nothing where one of them is no number. */
export function levelsIn(text: string): number[] | null {
  const parts = text.split(/[;\s]+/).filter(Boolean);
  const heights = parts.map((part) => Number(part.replace(",", ".")));
  return heights.every(Number.isFinite) && heights.length <= MOST ? heights : null;
}
