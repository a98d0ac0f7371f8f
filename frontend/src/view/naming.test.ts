import { expect, it } from "vitest";
import type { Shown } from "../live/decode";
import type { Live } from "../live/live";
import { cornersOwned, placeOf } from "./naming";

const triangles = new Uint16Array([0, 1, 2, 3, 4, 5, 3, 5, 6]);
const owner = new Uint16Array([0, 1, 1]);

it("finds the corners a thing owns", () => {
  expect(cornersOwned(triangles, owner, 0)).toEqual([0, 1, 2]);
  expect(cornersOwned(triangles, owner, 1)).toEqual([3, 4, 5, 3, 5, 6]);
  expect(cornersOwned(triangles, owner, 2)).toEqual([]);
});

it("puts what has triangles of its own in their middle", () => {
  const positions = new Float32Array(21).fill(0);
  positions.set([9, 0, 0, 9, 3, 0, 9, 0, 3], 9);
  positions.set([9, 3, 0], 18);
  const shown = { arrays: { positions, triangles, owner } } as unknown as Shown;
  const live = {
    outcomes: { a: { key: "k" } },
    geometry: new Map([["k", shown]]),
  } as unknown as Live;
  const place = placeOf(live, "a/solid/1")!;
  expect(place.x).toBeCloseTo(9);
  expect([place.y, place.z].every((c) => c > 0 && c < 3)).toBe(true);
});
