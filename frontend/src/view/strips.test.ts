import { expect, test } from "vitest";
import { closed, foldedUp } from "./strips";

/** Two triangles that meet at a right angle about the y axis, the second hanging down. */
const HOME = new Float32Array([0, 0, 0, 0, 1, 0, -1, 0, 0, 0, 1, -1]);
const ARRAYS = {
  triangles: new Uint16Array([0, 1, 2, 1, 0, 3]),
  before: new Int32Array([-1, 0]),
  turns: new Float32Array([0, 90]),
  owner: new Uint16Array([0, 0]),
  flat: new Float32Array([0, 0, 0, 1, -1, 0, 1, 1]),
};

test("strips that are not to be flat stay as they stand", () => {
  expect(foldedUp(HOME, ARRAYS, [0])).toBe(HOME);
});

test("the first triangle stays and others are laid into its plane", () => {
  const flat = foldedUp(HOME, ARRAYS, [1]);
  expect(Array.from(flat.slice(0, 9))).toEqual(Array.from(HOME.slice(0, 9)));
  expect(Array.from(flat.slice(9)).map((v) => Math.round(1e6 * v) / 1e6)).toEqual([1, 1, 0]);
});

test("half flat is half the turn, and nearly closed is nearly as it stands", () => {
  const half = foldedUp(HOME, ARRAYS, [0.5]);
  expect(half[9]).toBeCloseTo(Math.SQRT1_2, 6);
  expect(half[11]).toBeCloseTo(-Math.SQRT1_2, 6);
  const nearly = foldedUp(HOME, ARRAYS, [1e-7]);
  expect(Math.max(...nearly.map((v, k) => Math.abs(v - HOME[k]!)))).toBeLessThan(1e-5);
});

test("folds close one after the other", () => {
  expect([0, 1, 2, 3].map((rank) => closed(rank, 4, 0.5))).toEqual([1, 1, 0, 0]);
  expect(closed(1, 4, 0.625)).toBe(0.5);
});
