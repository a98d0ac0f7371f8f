import { type BufferAttribute, Color, type Mesh, Vector3 } from "three";
import { expect, test } from "vitest";
import type { Shown } from "../live/decode";
import { drawCells, drawPanels } from "./nets";

/** A square of 2 m and, beside it, a triangle; the triangle's panel is of a clear sheet. */
const SHOWN = {
  of: "panels",
  key: "k",
  meta: {
    looks: [
      [255, 0, 0],
      [0, 0, 255],
    ],
    finishes: ["plain", "plain"],
    clear: [false, true],
    raised: 0.1,
  },
  arrays: {
    positions: new Float32Array([0, 0, 0, 2, 0, 0, 2, 2, 0, 0, 2, 0, 4, 0, 0]),
    corners: new Uint16Array([0, 1, 2, 3, 1, 4, 2]),
    counts: new Uint8Array([4, 3]),
    sheetOf: new Uint8Array([0, 1]),
  },
} as unknown as Shown;

const numbers = (mesh: Mesh, name: string) =>
  Array.from((mesh.geometry.getAttribute(name) as BufferAttribute).array, (x) => x + 0);

test("cells are drawn corner by corner in one colour", () => {
  const mesh = drawCells(SHOWN).object as Mesh;
  expect(numbers(mesh, "position")).toEqual([
    0, 0, 0, 2, 0, 0, 2, 2, 0, 0, 0, 0, 2, 2, 0, 0, 2, 0, 2, 0, 0, 4, 0, 0, 2, 2, 0,
  ]);
  expect(numbers(mesh, "normal").slice(0, 3)).toEqual([0, 0, 1]);
});

test("panels of each kind of sheet are raised, smaller than their cells, and told when hit", () => {
  const drawn = drawPanels(SHOWN);
  const [full, clear] = drawn.object.children as [Mesh, Mesh];
  const heights = numbers(full, "position").filter((_, k) => k % 3 === 2);
  for (const z of heights) expect(z).toBeCloseTo(0.1, 6);
  expect(numbers(full, "position")[0]).toBeCloseTo(0.015, 6);
  expect(numbers(full, "color").slice(0, 3)).toEqual([1, 0, 0]);
  expect(numbers(clear, "position")).toHaveLength(9);
  expect(drawn.hit!(undefined, 1, full)).toBe(0);
  expect(drawn.hit!(undefined, 0, clear)).toBe(1);
});

test("panels move away and come back to the very place, are painted, and left out", () => {
  const drawn = drawPanels(SHOWN);
  const [full, clear] = drawn.object.children as [Mesh, Mesh];
  const before = numbers(full, "position");
  expect(drawn.spread!(null)).toBe(false);
  drawn.spread!([new Vector3(0, 0, 5), new Vector3()]);
  drawn.spread!([new Vector3(0, 0, 7), new Vector3()]);
  expect(numbers(full, "position")[2]).toBeCloseTo(7.1, 5);
  expect(numbers(clear, "position")[2]).toBeCloseTo(0.1, 6);
  expect(drawn.spread!(null)).toBe(true);
  expect(numbers(full, "position")).toEqual(before);
  drawn.paint([null, new Color(0, 1, 0)]);
  expect(numbers(clear, "color").slice(0, 3)).toEqual([0, 1, 0]);
  drawn.only!(new Set([1]));
  expect(new Set(full.geometry.index!.array)).toEqual(new Set([0]));
  drawn.only!(null);
  expect([...full.geometry.index!.array]).toEqual([0, 1, 2, 3, 4, 5]);
});
