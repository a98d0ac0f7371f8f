/** Where names of parts are written on the picture of a sheet, and how large. */
import polylabel from "polylabel";

type Place = [number, number];

export interface Written {
  at: Place;
  size: number;
  /** How far what is etched of its name is from there at most, in mm. */
  etched: number;
}

/** Letters are etched no higher (mm), as wide for their height, and within so much of the room there is. */
const ETCHED = { high: 40, wide: 1.2, within: 0.75 };

/** Size of the font by the smaller extent of the part: at most, and least, below which what is etched says it. */
const MOST = 1 / 7;
const LEAST = 1 / 12;
/** Width of a character by the size of the font, and the height that a name takes with room about it. */
const WIDE = 0.62;
const HIGH = 2.5;

/** Rings of a path of straight pieces. */
function rings(path: string): Place[][] {
  return path
    .split("M")
    .map((ring) =>
      [...ring.matchAll(/(-?[\d.]+),(-?[\d.]+)/g)].map(([, x, y]): Place => [Number(x), Number(y)]),
    )
    .filter((ring) => ring.length > 0);
}

/** A name over the widest place of a part, in which its name is etched, so that it lies on its material, as large as there is room for; none where that is little. */
export function written(name: string, outer: string, inner: string): Written | undefined {
  // Tabs part an outline into several lines.
  const outline = rings(outer).flat();
  if (outline.length < 3) return;
  const across = [0, 1].map((k) => {
    const along = outline.map((p) => p[k]!);
    return Math.max(...along) - Math.min(...along);
  });
  const smaller = Math.min(...across);
  const { 0: x, 1: y, distance: room } = polylabel([outline, ...rings(inner)], smaller / 50);
  const fits = (2 * room) / Math.hypot(WIDE * name.length, HIGH);
  if (fits < smaller * LEAST) return;
  const etched = Math.min(ETCHED.within * room, (ETCHED.high * ETCHED.wide * name.length) / 2);
  return { at: [x!, y!], size: Math.min(smaller * MOST, fits), etched };
}

/** Lines that are etched, but those about a place: a part's own name, which is written there larger. */
export function withoutName(marks: string, { at, etched }: Written): string {
  const isOther = (line: string) => {
    const places = rings(line).flat();
    const middle = [0, 1].map((k) => places.reduce((sum, p) => sum + p[k]!, 0) / places.length);
    return Math.hypot(middle[0]! - at[0], middle[1]! - at[1]) > etched;
  };
  return marks
    .split(/(?=M)/)
    .filter((line) => rings(line).length === 0 || isOther(line))
    .join("");
}
