import { expect, test } from "vitest";
import { partlyFlat } from "./ribs";

const HOME = new Float32Array([0, 0, 2, 1, 0, 4, 5, 5, 6]);
const FLAT = new Float32Array([0, 0, 0, 2, 0, 0, 5, 5, 0]);
const OWNER = new Uint32Array([0, 0, 1]);

test("each is bent back by its own share, and what has no flat place stays", () => {
  expect(Array.from(partlyFlat(HOME, FLAT, OWNER, [0.5, 0]))).toEqual([0, 0, 1, 1.5, 0, 2, 5, 5, 6]);
  expect(Array.from(partlyFlat(HOME, FLAT, OWNER, [0, 1]))).toEqual([0, 0, 2, 1, 0, 4, 5, 5, 0]);
  expect(partlyFlat(HOME, undefined, OWNER, [1, 1])).toBe(HOME);
});
