import { expect, test } from "vitest";
import { aimed, isMissed } from "./targets";

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

test("a figure has one target, and none any more where there is nothing to keep to", () => {
  const one = aimed({}, "longest", { most: 3 });
  expect(one).toEqual({ longest: { most: 3 } });
  const two = aimed(one, "cells", { least: 0 });
  expect(aimed(two, "longest", { least: 1 })).toEqual({ longest: { least: 1 }, cells: { least: 0 } });
  expect(aimed(two, "longest", {})).toEqual({ cells: { least: 0 } });
  expect(aimed(two, "cells", null)).toEqual(one);
  expect(two.longest).toEqual({ most: 3 });
});
