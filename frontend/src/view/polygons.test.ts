import { expect, test } from "vitest";
import { bordersOf, cutPolygons } from "./polygons";

/** The triangles as lists, each before the polygon it is of. */
function listed(...given: Parameters<typeof cutPolygons>): [number, number[]][] {
  const { corners, owner } = cutPolygons(...given);
  return [...owner].map((polygon, t) => [polygon, [...corners.subarray(3 * t, 3 * t + 3)]]);
}

test("polygons are cut from their first corner unless the server says how", () => {
  const cuts = {
    cutOf: new Uint16Array([1, 3]),
    cuts: new Uint16Array([1, 2, 3, 1, 3, 0, 2, 3, 4, 2, 4, 0, 2, 0, 1]),
  };
  expect(listed(new Uint8Array([4, 4, 3, 5]), cuts)).toEqual([
    [0, [0, 1, 2]],
    [0, [0, 2, 3]],
    [1, [5, 6, 7]],
    [1, [5, 7, 4]],
    [2, [8, 9, 10]],
    [3, [13, 14, 15]],
    [3, [13, 15, 11]],
    [3, [13, 11, 12]],
  ]);
});

test("of those left out none is drawn, and the others are cut as ever", () => {
  const cuts = {
    cutOf: new Uint16Array([0, 1]),
    cuts: new Uint16Array([1, 2, 3, 1, 3, 0, 2, 3, 0, 2, 0, 1]),
  };
  expect(listed(new Uint8Array([4, 4]), cuts, (i) => i === 1)).toEqual([
    [1, [6, 7, 4]],
    [1, [6, 4, 5]],
  ]);
});

test("polygons with openings have as many triangles as the server says", () => {
  const cuts = {
    cutOf: new Uint16Array([0, 2]),
    cuts: new Uint16Array([0, 1, 3, 1, 4, 3, 1, 2, 4, 5, 6, 7]),
    cutCounts: new Uint16Array([3, 1]),
  };
  const found = listed(new Uint8Array([8, 4, 8]), cuts);
  expect(found.map(([polygon]) => polygon)).toEqual([0, 0, 0, 1, 1, 2]);
  expect(found[3]).toEqual([1, [8, 9, 10]]);
  expect(found[5]).toEqual([2, [17, 18, 19]]);
});

test("borders are what one triangle alone has, round openings too", () => {
  const square = cutPolygons(new Uint8Array([4]), {});
  expect([...bordersOf(square)]).toEqual([0, 1, 1, 2, 4, 5, 5, 3]);
  const frame = [0, 1, 2, 3].flatMap((k) => {
    const next = (k + 1) % 4;
    return [k, next, 4 + next, k, 4 + next, 4 + k];
  });
  const cuts = { cutOf: [0], cuts: frame, cutCounts: [8] };
  const twice = { cutOf: [0, 1], cuts: [...frame, ...frame], cutCounts: [8, 8] };
  expect(bordersOf(cutPolygons([8] as never, cuts as never))).toHaveLength(16);
  expect(bordersOf(cutPolygons([8, 8] as never, twice as never))).toHaveLength(32);
});
