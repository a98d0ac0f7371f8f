import { expect, it } from "vitest";
import { freeName } from "./savedViews";

it("names a view by the first number that is free", () => {
  expect(freeName([])).toBe("View 1");
  expect(freeName([{ name: "View 1" }, { name: "From the creek" }, { name: "View 3" }])).toBe("View 2");
});
