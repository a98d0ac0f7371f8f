import { expect, it } from "vitest";
import { withoutName, written } from "./names";

const path = (...points: [number, number][]) => `M${points.map((p) => p.join(",")).join(" ")}Z`;
const box = (low: number, high: number) => path([low, low], [high, low], [high, high], [low, high]);

it("writes a name in the middle of a part without openings", () => {
  const { at, size } = written("P1", box(0, 700), "")!;
  expect(at.map((x) => Math.abs(x - 350) < 10)).toEqual([true, true]);
  expect(size).toBeCloseTo(100);
});

it("keeps off openings, within what material there is", () => {
  const { at, size } = written("K103", box(0, 1000), box(300, 700))!;
  const off = Math.min(...at.flatMap((x) => [x, 1000 - x]));
  expect(off).toBeLessThan(300);
  // Half of its width and of its height is less than what is free about its middle.
  expect(Math.hypot(0.62 * 4 * size, 2.5 * size) / 2).toBeLessThanOrEqual(off + 1e-6);
  expect(written("K103-1", box(0, 1000), box(100, 900))).toBeUndefined();
});

it("reads outlines that tabs part, of places left of the sheet's edge too, and gives no name to nothing", () => {
  const parted = "M-300,0 300,0M300,10 300,600 -300,600 -300,10";
  expect(Math.abs(written("P1", parted, "")!.at[0])).toBeLessThan(10);
  expect(written("P1", "", "")).toBeUndefined();
});

it("is written once: what is etched of it is left out, and other names are not", () => {
  const name = written("P1", box(0, 700), "")!;
  const own = "M340,340 345,360M352,345 360,362";
  const beside = "M350,20 356,30";
  expect(withoutName(own + beside, name)).toBe(beside);
  expect(withoutName("", name)).toBe("");
});
