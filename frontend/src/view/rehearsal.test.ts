import { Box3, type Material, type Mesh, Vector3 } from "three";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Drawn } from "./layers";
import { rehearse } from "./rehearsal";

beforeEach(() => void vi.stubGlobal("requestIdleCallback", (call: () => void) => call()));
afterEach(() => void vi.unstubAllGlobals());

/** What would be drawn unseen. */
function rehearsed(): Drawn[] {
  const rehearsal = vi.fn<(things: (() => Drawn | null)[]) => void>();
  rehearse({ rehearse: rehearsal });
  return rehearsal.mock.calls[0]![0].map((draw) => draw()).filter((drawn) => drawn !== null);
}

test("each kind of thing is drawn about a square of a metre", () => {
  const all = rehearsed();
  expect(all).toHaveLength(10);
  for (const { object } of all) {
    const size = new Box3().setFromObject(object).getSize(new Vector3());
    for (const wide of [size.x, size.y]) {
      expect(wide).toBeGreaterThan(0.9);
      expect(wide).toBeLessThan(1.5);
    }
  }
});

test("steel, timber and glass, whole and cut, are each drawn with their own material", () => {
  const names = new Set<string>();
  for (const { object } of rehearsed())
    object.traverse((o) => {
      const material = (o as Mesh).material as Material | undefined;
      if (material?.name) names.add(material.name);
    });
  expect([...names].sort()).toEqual([
    "clear glass",
    "full timber",
    "member isCut metal",
    "member isCut timber",
    "member metal",
    "member timber",
    "timber",
  ]);
});
