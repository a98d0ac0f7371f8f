import { expect, it } from "vitest";
import type { Figure } from "../api/client";
import { withPending } from "./pending";

const figure = (name: string, value: number): Figure => ({
  name,
  value,
  label: name,
  unit: "",
  decimals: 0,
  at: null,
  headline: true,
});
const told = (complete: boolean, ...figures: Figure[]) => ({ complete, figures });

it("keeps figures in their places until newer ones come", () => {
  const before = told(true, figure("types", 12), figure("length", 3));
  const soon = withPending(before, told(false, figure("length", 4)));
  expect(soon.figures).toEqual([{ ...figure("types", 12), pending: true }, figure("length", 4)]);
  expect(withPending(soon, told(true, figure("types", 13), figure("length", 4))).figures[0]).toEqual(
    figure("types", 13),
  );
});

it("adds what is new, and keeps nothing once all is told", () => {
  const before = told(true, figure("bodies", 5));
  expect(withPending(before, told(false, figure("length", 4))).figures.map((f) => f.name)).toEqual([
    "bodies",
    "length",
  ]);
  expect(withPending(before, told(true, figure("length", 4))).figures).toEqual([figure("length", 4)]);
  expect(withPending(undefined, told(false, figure("length", 4))).figures).toEqual([figure("length", 4)]);
});
