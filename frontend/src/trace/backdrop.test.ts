import { Vector3 } from "three";
import { expect, test } from "vitest";
import { axisAlong } from "./backdrop";

test("the directions of a plane are called after the axes that they run along, either way", () => {
  expect(axisAlong(new Vector3(0, 0, 1))).toBe("z");
  expect(axisAlong(new Vector3(-1, 0, 0))).toBe("x");
  expect(axisAlong(new Vector3(0, 0.6, 0.8))).toBe(null);
});
