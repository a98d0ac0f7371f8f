import { expect, test } from "vitest";
import type { ClauseEntry } from "../api/client";
import { progress, STEPS, type Stated } from "./round";

const clause = (id: string, values = {}) => ({ id, kind: id, values }) as unknown as ClauseEntry;
const state = (gives: string[], values = {}, seen: string[] = []): Stated => ({
  clauses: gives.map((type) => clause(type, values)),
  outcomes: Object.fromEntries(gives.map((type) => [type, { status: "done" as const, gives: type }])),
  seen: new Set(seen),
});

test("there are seven steps, of which the first that is not done is at hand", () => {
  expect(STEPS).toHaveLength(7);
  expect(progress(state([])).at).toBe(0);
  expect(progress(state(["Shape"])).at).toBe(1);
  expect(progress(state(["Shape"], { span: 9 })).at).toBe(2);
  expect(progress(state(["Shape", "Net", "Structure"], { span: 9 })).at).toBe(4);
});

test("what was done in another order counts too, and in the end all is done", () => {
  expect(progress(state(["Shape", "Net"])).done.slice(0, 3)).toEqual([true, false, true]);
  const all = state(["Shape", "Net", "Structure", "Panels"], { span: 9 }, ["schedules", "deliver"]);
  expect(progress(all).at).toBe(7);
});

test("what failed is not done", () => {
  const failed = { ...state(["Shape"]), outcomes: { Shape: { status: "failed" as const, gives: "Shape" } } };
  expect(progress(failed).at).toBe(0);
});
