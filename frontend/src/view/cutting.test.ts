import { Box3, Ray, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { gripOfCut, nearestOnLine, outlineOfCut, placeOfCut, shareAt } from "./cutting";

const box = new Box3(new Vector3(-2, 0, 1), new Vector3(4, 10, 3));

describe("the section cut", () => {
  it("lies across its axis, through the whole box", () => {
    for (const axis of ["x", "y", "z"] as const) {
      const cut = { axis, share: 0.25 };
      const outline = outlineOfCut(box, cut);
      expect(outline).toHaveLength(5);
      for (const p of outline) expect(p[axis]).toBeCloseTo(placeOfCut(box, cut), 12);
      const around = new Box3().setFromPoints(outline);
      for (const other of ["x", "y", "z"] as const)
        if (other !== axis)
          expect([around.min[other], around.max[other]]).toEqual([box.min[other], box.max[other]]);
    }
  });

  it("is taken hold of at its upper edge, or its front one", () => {
    expect(gripOfCut(box, { axis: "x", share: 0.5 }).toArray()).toEqual([1, 5, 3]);
    expect(gripOfCut(box, { axis: "y", share: 0.1 }).toArray()).toEqual([1, 1, 3]);
    expect(gripOfCut(box, { axis: "z", share: 0.5 }).toArray()).toEqual([1, 0, 2]);
  });

  it("follows a pointer along its axis, no further than the model", () => {
    const way = new Vector3(0, 1, 0);
    const ray = new Ray(new Vector3(20, 7, 9), new Vector3(-1, 0, -0.3).normalize());
    const place = nearestOnLine(ray, new Vector3(1, 2, 3), way)!;
    expect(place.toArray()).toEqual([1, expect.closeTo(7, 9), 3]);
    expect(shareAt(box, "y", place)).toBeCloseTo(0.7, 9);
    expect(shareAt(box, "y", new Vector3(0, 99, 0))).toBe(1);
    expect(nearestOnLine(new Ray(new Vector3(), way), new Vector3(1, 2, 3), way)).toBeNull();
  });
});
