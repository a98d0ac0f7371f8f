import { expect, it } from "vitest";
import { countsOf } from "./spread";

it("counts values by equal steps, the highest in the last one", () => {
  expect(countsOf([0, 1, 2, 3, 4], 0, 4, 4)).toEqual([1, 1, 1, 2]);
  expect(countsOf([0.99, 3.99], 0, 4, 4)).toEqual([1, 0, 0, 1]);
});

it("counts all in the first step where there is but one value", () => {
  expect(countsOf([7, 7, 7], 7, 7, 3)).toEqual([3, 0, 0]);
});

it("leaves nothing out that lies beyond", () => {
  expect(countsOf([-1, 9], 0, 4, 2)).toEqual([1, 1]);
});
