import { Box3, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { axisLines, letterOf, levelsIn, levelText, placesOf } from "./axes";

const box = new Box3(new Vector3(-6, 0, 0), new Vector3(6, 12, 4));
const axes = { on: true, x: 3, y: 5, levels: [0, 3.2] };

describe("grid axes", () => {
  it("stand at whole steps within the model, its ends included", () => {
    expect(placesOf(-6, 6, 3)).toEqual([-6, -3, 0, 3, 6]);
    expect(placesOf(0.1, 12, 5)).toEqual([5, 10]);
    expect(placesOf(0, 1000, 1)).toEqual([]);
    expect(placesOf(0, 10, 0)).toEqual([]);
  });

  it("are numbered along x and lettered along y, without letters that look like numbers", () => {
    const named = axisLines(box, axes, "plan").map((line) => line.name);
    expect(named).toEqual(["1", "2", "3", "4", "5", "A", "B", "C"]);
    expect([7, 8, 23, 24, 25].map(letterOf)).toEqual(["H", "J", "Z", "AA", "AB"]);
  });

  it("lie on the ground from above and stand upright, with levels, from the side", () => {
    for (const line of axisLines(box, axes, "oblique")) expect([line.from.z, line.to.z]).toEqual([0, 0]);
    const side = axisLines(box, axes, "y");
    expect(side.filter((l) => !l.isLevel).map((l) => l.name)).toEqual(["1", "2", "3", "4", "5"]);
    for (const line of side.filter((l) => !l.isLevel)) expect(line.from.x).toBe(line.to.x);
    const levels = side.filter((l) => l.isLevel);
    expect(levels.map((l) => l.from.z)).toEqual([0, 3.2]);
    for (const line of levels) expect(Math.min(line.from.x, line.to.x)).toBeLessThan(-6);
  });

  it("are not there while they are off, or there is no model", () => {
    expect(axisLines(box, { ...axes, on: false }, "plan")).toEqual([]);
    expect(axisLines(new Box3(), axes, "plan")).toEqual([]);
  });
});

describe("levels", () => {
  it("bear their signs", () => {
    expect(levelText(0)).toMatch(/^±0\.000/);
    expect(levelText(3.2)).toMatch(/^\+3\.200/);
    expect(levelText(-1)).toMatch(/^−1\.000/);
  });

  it("are read from a text, with either sign for decimals", () => {
    expect(levelsIn("0; 3,2 6.4")).toEqual([0, 3.2, 6.4]);
    expect(levelsIn("")).toEqual([]);
    expect(levelsIn("0; top")).toBeNull();
  });
});
