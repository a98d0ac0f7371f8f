import { Box3, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { shadowedBy, shadowOf } from "./shadow";

describe("the shadow on the ground", () => {
  it("lies below a place, further off the higher that is", () => {
    const [low, high] = [1, 3].map((z) => shadowOf(new Vector3(2, 5, z), 0));
    expect(low!.z).toBeCloseTo(0);
    expect(high!.z).toBeCloseTo(0);
    const away = [low!, high!].map((s) =>
      s
        .clone()
        .sub(new Vector3(2, 5, 0))
        .length(),
    );
    expect(away[1]! / away[0]!).toBeCloseTo(3);
    expect(shadowOf(new Vector3(2, 5, -0.8), -0.8).distanceTo(new Vector3(2, 5, -0.8))).toBeCloseTo(0);
  });

  it("is within its rectangle, with room to fade", () => {
    const box = new Box3(new Vector3(-4, 0, 0), new Vector3(4, 20, 6));
    const [low, high] = shadowedBy(box, -1);
    for (const x of [-4, 4])
      for (const y of [0, 20])
        for (const z of [0, 6]) {
          const at = shadowOf(new Vector3(x, y, z), -1);
          expect(Math.min(at.x - low.x, at.y - low.y, high.x - at.x, high.y - at.y)).toBeGreaterThan(1);
        }
    expect(low.z).toBe(-1);
  });
});
