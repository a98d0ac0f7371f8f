import { Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { turnedBy } from "./turning";

describe("a turn of the model", () => {
  const [from, about] = [new Vector3(7, 2, 9), new Vector3(1, 2, 3)];

  it("keeps to the height and the distance it begins at, and ends where it began", () => {
    for (const share of [0, 0.2, 0.5, 0.9, 1]) {
      const at = turnedBy(from, about, share);
      expect(at.z).toBeCloseTo(9, 9);
      expect(at.distanceTo(about)).toBeCloseTo(from.distanceTo(about), 9);
    }
    expect(turnedBy(from, about, 1).distanceTo(from)).toBeLessThan(1e-9);
  });

  it("goes round counter-clockwise, seen from above", () => {
    expect(turnedBy(from, about, 0.25).distanceTo(new Vector3(1, 8, 9))).toBeLessThan(1e-9);
    expect(turnedBy(from, about, 0.5).distanceTo(new Vector3(-5, 2, 9))).toBeLessThan(1e-9);
  });
});
