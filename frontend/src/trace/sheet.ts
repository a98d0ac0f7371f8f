/** The sheet: its scale and place, and what a pointer is drawn to on it. */

export type Point = [number, number];
export type DrawnCurve = [string, Point[]];

export interface Sight {
  /** The sheet's middle in metres and its scale. */
  x: number;
  y: number;
  metresPerPixel: number;
}

export interface Size {
  width: number;
  height: number;
}

export const toPixels = (s: Sight, size: Size, [x, y]: Point): Point => [
  size.width / 2 + (x - s.x) / s.metresPerPixel,
  size.height / 2 - (y - s.y) / s.metresPerPixel,
];

export const toMetres = (s: Sight, size: Size, [x, y]: Point): Point => [
  s.x + (x - size.width / 2) * s.metresPerPixel,
  s.y - (y - size.height / 2) * s.metresPerPixel,
];

export const distance = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]);

const STEPS = [0.001, 0.005, 0.01, 0.05, 0.1, 0.5, 1, 5, 10, 50, 100, 500];

/** Distance of the grid lines: the finest that stand apart enough to be told from each other. */
export const gridStep = (s: Sight) => STEPS.find((step) => step / s.metresPerPixel >= 14) ?? 1000;

export interface Caught {
  at: Point;
  by: "point" | "middle" | "direction" | "grid" | "";
}

const REACH = 9;

/** What a pointer is drawn to: all there is, what is drawn but no grid, or nothing. */
export type Draw = "all" | "drawn" | "nothing";

/** Over a picture to trace it is the picture that says where points go; with Alt held the hand does. */
export const drawTo = (traced: boolean, free: boolean): Draw => (free ? "nothing" : traced ? "drawn" : "all");

/** Shares of the reach within which directions draw, with the grid and without. */
const ASIDE = { all: 0.8, drawn: 0.4 };

/**
 * Where a pointer is drawn to: a point or the middle between two, a direction from the last point in steps of 45°, or
 * the grid.
 */
export function catchPoint(
  at: Point,
  s: Sight,
  points: Point[],
  middles: Point[],
  from: Point | null,
  to: Draw,
): Caught {
  if (to === "nothing") return { at, by: "" };
  const reach = REACH * s.metresPerPixel;
  for (const [by, all] of [
    ["point", points],
    ["middle", middles],
  ] as const) {
    let best: Point | null = null;
    for (const p of all) if (distance(p, at) < (best ? distance(best, at) : reach)) best = p;
    if (best) return { at: best, by };
  }
  const step = gridStep(s);
  if (from && distance(from, at) > reach) {
    const angle = Math.atan2(at[1] - from[1], at[0] - from[0]);
    const turned = (Math.round(angle / (Math.PI / 4)) * Math.PI) / 4;
    const way: Point = [Math.cos(turned), Math.sin(turned)];
    const along = (at[0] - from[0]) * way[0] + (at[1] - from[1]) * way[1];
    const foot: Point = [from[0] + along * way[0], from[1] + along * way[1]];
    if (distance(foot, at) < ASIDE[to] * reach) {
      if (to === "drawn") return { at: foot, by: "direction" };
      const diagonal = Math.abs(way[0]) > 0.1 && Math.abs(way[1]) > 0.1;
      const unit = diagonal ? step * Math.SQRT2 : step;
      const length = Math.round(along / unit) * unit;
      return { at: [from[0] + length * way[0], from[1] + length * way[1]], by: "direction" };
    }
  }
  if (to === "drawn") return { at, by: "" };
  const grid: Point = [Math.round(at[0] / step) * step, Math.round(at[1] / step) * step];
  return distance(grid, at) < reach ? { at: grid, by: "grid" } : { at, by: "" };
}

export const tidy = ([x, y]: Point): Point => [Number(x.toFixed(4)), Number(y.toFixed(4))];

/** What can be drawn: names as the statement writes them, how many points end it, and whether it closes. */
export const TOOLS: {
  kind: string;
  title: string;
  most: number;
  least: number;
  closed: boolean;
  hint: string;
}[] = [
  {
    kind: "line",
    title: "Line",
    least: 2,
    most: 2000,
    closed: false,
    hint: "Click its points; Enter ends it.",
  },
  {
    kind: "polygon",
    title: "Polygon",
    least: 3,
    most: 2000,
    closed: true,
    hint: "Click its corners; Enter closes it.",
  },
  {
    kind: "rectangle",
    title: "Rectangle",
    least: 2,
    most: 2,
    closed: true,
    hint: "Click two opposite corners.",
  },
  {
    kind: "circle",
    title: "Circle",
    least: 2,
    most: 2,
    closed: true,
    hint: "Click its centre, then a point on it.",
  },
  {
    kind: "arc",
    title: "Arc",
    least: 3,
    most: 3,
    closed: false,
    hint: "Click its start, a point on it, its end.",
  },
  {
    kind: "spline",
    title: "Curve",
    least: 2,
    most: 500,
    closed: false,
    hint: "Click points it goes through; Enter ends it.",
  },
  {
    kind: "loop",
    title: "Closed curve",
    least: 3,
    most: 500,
    closed: true,
    hint: "Click points it goes through; Enter closes it.",
  },
  {
    kind: "guided",
    title: "Guided curve",
    least: 2,
    most: 500,
    closed: false,
    hint: "Click points that draw it near; Enter ends it.",
  },
  {
    kind: "guided loop",
    title: "Guided closed curve",
    least: 3,
    most: 500,
    closed: true,
    hint: "Click points that draw it near; Enter closes it.",
  },
];
