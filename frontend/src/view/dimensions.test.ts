import { beforeEach, expect, it, vi } from "vitest";

const store = new Map<string, string>();
vi.stubGlobal("localStorage", {
  getItem: (key: string) => store.get(key) ?? null,
  setItem: (key: string, value: string) => store.set(key, value),
});
const { dimensionsOf } = await import("./dimensions");

beforeEach(() => store.clear());

it("takes two places each, and has them again in the same project only", () => {
  const hall = dimensionsOf("hall");
  const { take } = hall.getState();
  take([0, 0, 0]);
  expect(hall.getState().begun).toEqual([0, 0, 0]);
  take([3, 4, 0]);
  take([9, 9, 9]);
  hall.getState().letGo();
  expect(hall.getState().all).toEqual([{ from: [0, 0, 0], to: [3, 4, 0] }]);
  expect(dimensionsOf("shed").getState().all).toEqual([]);
  expect(dimensionsOf("hall").getState().all).toHaveLength(1);
  hall.getState().clear();
  expect(dimensionsOf("hall").getState().all).toEqual([]);
});

it("begins with none where what was kept cannot be read", () => {
  store.set("dimensions in hall", "{");
  expect(dimensionsOf("hall").getState().all).toEqual([]);
});
