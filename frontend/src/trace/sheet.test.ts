import { describe, expect, it } from "vitest";
import {
  catchPoint,
  distance,
  drawTo,
  gridStep,
  type Point,
  type Sight,
  tidy,
  toMetres,
  toPixels,
} from "./sheet";

const SIGHT: Sight = { x: 2, y: -1, metresPerPixel: 0.02 };
const SIZE = { width: 640, height: 480 };

describe("a sheet", () => {
  it("has its middle in the middle, and heights go up", () => {
    expect(toPixels(SIGHT, SIZE, [2, -1])).toEqual([320, 240]);
    expect(toPixels(SIGHT, SIZE, [3, 0])).toEqual([370, 190]);
    const [x, y] = toMetres(SIGHT, SIZE, toPixels(SIGHT, SIZE, [-0.37, 4.21]));
    expect([x, y].map((v) => v.toFixed(6))).toEqual(["-0.370000", "4.210000"]);
  });

  it("has a grid whose lines can be told from each other at any scale", () => {
    for (const metresPerPixel of [1e-5, 1e-3, 0.02, 0.3, 9]) {
      const step = gridStep({ ...SIGHT, metresPerPixel });
      expect(step / metresPerPixel).toBeGreaterThanOrEqual(14);
    }
    expect(gridStep(SIGHT)).toBe(0.5);
  });
});

describe("what a pointer is drawn to", () => {
  const points: Point[] = [[1, 1]];
  const middles: Point[] = [[1.1, 1]];
  const caught = (at: Point, from: Point | null = null, free = false, traced = false) =>
    catchPoint(at, SIGHT, points, middles, from, drawTo(traced, free));

  it("is a point rather than a middle, and either rather than the grid", () => {
    expect(caught([1.06, 1.02])).toEqual({ at: [1, 1], by: "point" });
    expect(caught([1.19, 1.02])).toEqual({ at: [1.1, 1], by: "middle" });
    expect(caught([2.55, 0.45])).toEqual({ at: [2.5, 0.5], by: "grid" });
  });

  it("is a direction from the last point, by whole steps of the grid along it", () => {
    const { at, by } = caught([5.05, 0.1], [3, 0]);
    expect(by).toBe("direction");
    expect(at).toEqual([5, 0]);
    const slant = caught([4.56, 1.47], [3, 0]);
    expect(slant.by).toBe("direction");
    expect(slant.at[0] - 3).toBeCloseTo(slant.at[1], 9);
    expect(distance(slant.at, [3, 0]) / (0.5 * Math.SQRT2)).toBeCloseTo(3, 9);
  });

  it("is no grid over a picture, along directions neither, but what is drawn already", () => {
    const over = (at: Point, from: Point | null = null) => caught(at, from, false, true);
    expect(over([2.55, 0.45])).toEqual({ at: [2.55, 0.45], by: "" });
    expect(over([1.06, 1.02])).toEqual({ at: [1, 1], by: "point" });
    expect(over([5.05, 0.05], [3, 0])).toEqual({ at: [5.05, 0], by: "direction" });
    expect(over([5.05, 0.1], [3, 0]).by).toBe("");
    expect(caught([1, 1], null, true, true).by).toBe("");
  });

  it("is nothing where nothing is near, or where it is let go", () => {
    expect(caught([2.25, 0.25]).by).toBe("");
    expect(caught([1, 1], null, true)).toEqual({ at: [1, 1], by: "" });
  });

  it("is written to a tenth of a millimetre", () => {
    expect(tidy([1.234567, -0.00001])).toEqual([1.2346, -0]);
  });
});
