import { expect, test } from "vitest";
import { isMissed } from "./targets";

const figure = (value: number | string, pending = false) => ({ value, pending });

test("a figure misses a target beyond either end, and keeps to it on it", () => {
  expect(isMissed(figure(3.2), { most: 3 })).toBe(true);
  expect(isMissed(figure(3), { most: 3 })).toBe(false);
  expect(isMissed(figure(0.4), { least: 0.5, most: 3 })).toBe(true);
  expect(isMissed(figure(0), { least: 0 })).toBe(false);
});

test("without a target, as words or while it is still to come none is missed", () => {
  expect(isMissed(figure(9))).toBe(false);
  expect(isMissed(figure("flat"), { most: 3 })).toBe(false);
  expect(isMissed(figure(9, true), { most: 3 })).toBe(false);
});
