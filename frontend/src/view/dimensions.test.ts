import { beforeEach, expect, it, vi } from "vitest";

const store = new Map<string, string>();
vi.stubGlobal("localStorage", {
  getItem: (key: string) => store.get(key) ?? null,
  setItem: (key: string, value: string) => store.set(key, value),
});
const { useDimensions } = await import("./dimensions");

beforeEach(() => {
  store.clear();
  useDimensions.getState().open("hall");
});

it("takes two places each, and has them again in the same project only", () => {
  const { take } = useDimensions.getState();
  take([0, 0, 0]);
  expect(useDimensions.getState().begun).toEqual([0, 0, 0]);
  take([3, 4, 0]);
  take([9, 9, 9]);
  useDimensions.getState().letGo();
  expect(useDimensions.getState().all).toEqual([{ from: [0, 0, 0], to: [3, 4, 0] }]);
  useDimensions.getState().open("shed");
  expect(useDimensions.getState().all).toEqual([]);
  useDimensions.getState().open("hall");
  expect(useDimensions.getState().all).toHaveLength(1);
  useDimensions.getState().clear();
  useDimensions.getState().open("hall");
  expect(useDimensions.getState().all).toEqual([]);
});

it("begins with none where what was kept cannot be read", () => {
  store.set("dimensions in hall", "{");
  useDimensions.getState().open("hall");
  expect(useDimensions.getState().all).toEqual([]);
});
