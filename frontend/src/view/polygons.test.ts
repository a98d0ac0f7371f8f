import { expect, test } from "vitest";
import { bordersOf, polygonCutter } from "./polygons";

test("polygons are cut from their first corner unless the server says how", () => {
  const cut = polygonCutter(
    new Uint16Array([1, 3]),
    new Uint16Array([1, 2, 3, 1, 3, 0, 2, 3, 4, 2, 4, 0, 2, 0, 1]),
  );
  expect(cut(0, 4)).toEqual([
    [0, 1, 2],
    [0, 2, 3],
  ]);
  expect(cut(1, 4)).toEqual([
    [1, 2, 3],
    [1, 3, 0],
  ]);
  expect(cut(2, 3)).toEqual([[0, 1, 2]]);
  expect(cut(3, 5)).toEqual([
    [2, 3, 4],
    [2, 4, 0],
    [2, 0, 1],
  ]);
});

test("without a list all are cut from their first corner", () => {
  expect(polygonCutter()(0, 5)).toHaveLength(3);
});

test("polygons with openings have as many triangles as the server says", () => {
  const cut = polygonCutter(
    new Uint16Array([0, 2]),
    new Uint16Array([0, 1, 3, 1, 4, 3, 1, 2, 4, 5, 6, 7]),
    new Uint16Array([3, 1]),
  );
  expect(cut(0, 4)).toHaveLength(3);
  expect(cut(1, 4)).toEqual([
    [0, 1, 2],
    [0, 2, 3],
  ]);
  expect(cut(2, 8)).toEqual([[5, 6, 7]]);
});

test("borders are what one triangle alone has, round openings too", () => {
  expect(
    bordersOf([
      [0, 1, 2],
      [0, 2, 3],
    ]),
  ).toEqual([
    [0, 1],
    [1, 2],
    [4, 5],
    [5, 3],
  ]);
  const frame = [0, 1, 2, 3].flatMap((k): [number, number, number][] => {
    const next = (k + 1) % 4;
    return [
      [k, next, 4 + next],
      [k, 4 + next, 4 + k],
    ];
  });
  expect(bordersOf(frame)).toHaveLength(8);
});
