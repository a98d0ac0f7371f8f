import { expect, test, vi } from "vitest";
import { keep, kept } from "./kept";

const store = new Map<string, string>();
vi.stubGlobal("localStorage", {
  getItem: (key: string) => store.get(key) ?? null,
  setItem: (key: string, value: string) => store.set(key, value),
});

test("what is kept is had again, and what cannot be read is as nothing", () => {
  expect(kept("views", [])).toEqual([]);
  keep("views", [{ name: "From the creek" }]);
  expect(kept("views", [])).toEqual([{ name: "From the creek" }]);
  store.set("views", "{");
  expect(kept("views", [])).toEqual([]);
});
