import { Box3, type LineSegments, Vector3 } from "three";
import { afterEach, expect, it } from "vitest";
import { largeText, largeUnit, useLengths } from "../ui/lengths";
import { drawGround } from "./ground";
import { hasRoom, roundLength } from "./overlay";

const box = new Box3(new Vector3(-6, 0, -2), new Vector3(6, 12, 4));
afterEach(() => useLengths.setState({ system: "metric" }));

it("lies under the model and around it, at whole numbers of what lengths are read in", () => {
  for (const unit of [1, 0.3048]) {
    const { object, step, low, high, z } = drawGround(box, unit);
    expect(z).toBe(-2);
    expect(low[0]).toBeLessThan(-6);
    expect(high[1]).toBeGreaterThan(12);
    for (const side of [...low, ...high]) expect(Math.round(side / step) * step).toBeCloseTo(side, 9);
    // Half units are the least: fine lines lie at every fifth of these.
    expect(Math.round((2 * step) / unit)).toBeCloseTo((2 * step) / unit, 9);
    for (const lines of object.children as LineSegments[])
      expect(lines.geometry.getAttribute("position").count).toBeGreaterThan(8);
  }
});

it("has stronger lines every fifth", () => {
  const { object, step, low, high } = drawGround(box, 1);
  const strong = (object.children[1] as LineSegments).geometry.getAttribute("position").count / 2;
  expect(strong).toBe((high[0] - low[0]) / step + 1 + (high[1] - low[1]) / step + 1);
});

it("is told in metres, or in feet where lengths are", () => {
  expect([largeText(2.5), roundLength(2.3)]).toEqual(["2.5\u202fm", 2]);
  useLengths.setState({ system: "feet" });
  expect(largeText(3.048)).toBe("10′");
  expect(roundLength(2.3) / largeUnit()).toBeCloseTo(5, 9);
});

it("leaves numbers out that would be written over others", () => {
  const written = [{ x: 100, y: 50, half: 20 }];
  expect(hasRoom({ x: 130, y: 55, half: 20 }, written)).toBe(false);
  expect(hasRoom({ x: 150, y: 55, half: 20 }, written)).toBe(true);
  expect(hasRoom({ x: 100, y: 70, half: 20 }, written)).toBe(true);
});
