import type { BufferGeometry } from "three";
import { describe, expect, it } from "vitest";
import { bar, plainBar } from "./bar";

type Outline = [number, number][];

const square: Outline = [
  [-1, -1],
  [1, -1],
  [1, 1],
  [-1, 1],
];
/** A channel 2 wide and 4 high, walls 0.5 thick. */
const channel: Outline = [
  [-1, -2],
  [1, -2],
  [1, -1.5],
  [-0.5, -1.5],
  [-0.5, 1.5],
  [1, 1.5],
  [1, 2],
  [-1, 2],
];
const circle: Outline = Array.from({ length: 12 }, (_, k) => [
  Math.cos((k * Math.PI) / 6),
  Math.sin((k * Math.PI) / 6),
]);

function area(outline: Outline): number {
  return (
    outline.reduce((sum, [y, z], k) => {
      const [y1, z1] = outline[(k + 1) % outline.length]!;
      return sum + y * z1 - y1 * z;
    }, 0) / 2
  );
}

/** The volume that triangles go round, normals outward. */
function volume(geometry: BufferGeometry): number {
  const at = geometry.getAttribute("position");
  const index = geometry.getIndex()!;
  let six = 0;
  for (let k = 0; k < index.count; k += 3) {
    const [a, b, c] = [0, 1, 2].map((j) => {
      const v = index.getX(k + j);
      return [at.getX(v), at.getY(v), at.getZ(v)];
    }) as [number[], number[], number[]];
    six +=
      a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) +
      a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) +
      a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!);
  }
  return six / 6;
}

describe("the bar of a section", () => {
  it.each([
    ["a square", [square], false],
    ["a channel, which is not round about its middle", [channel], false],
    ["two channels apart", [channel, channel.map(([y, z]): [number, number] => [-y - 3, -z])], false],
    ["a circle", [circle], true],
  ])("is closed and as large as the section: %s", (_, outlines, round) => {
    const wanted = outlines.reduce((sum, outline) => sum + area(outline), 0);
    for (const isCut of [false, true]) expect(volume(bar({ outlines, round }, isCut))).toBeCloseTo(wanted, 5);
  });

  it("has corners in the middles of its sides where planes cut it, as they come to a point there", () => {
    const corners = (isCut: boolean) => {
      const at = bar({ outlines: [channel], round: false }, isCut).getAttribute("position");
      return new Set(Array.from({ length: at.count }, (_, k) => `${at.getY(k)} ${at.getZ(k)}`)).size;
    };
    expect([corners(false), corners(true)]).toEqual([8, 16]);
  });

  it("is plainly four sides as far out as the section reaches", () => {
    const pair = [channel, channel.map(([y, z]): [number, number] => [y + 3, z])];
    const geometry = plainBar({ outlines: pair });
    const at = geometry.getAttribute("position");
    const all = Array.from({ length: at.count }, (_, v) => [at.getX(v), at.getY(v), at.getZ(v)].join(" "));
    expect(new Set(all)).toEqual(
      new Set(["-1 -2", "4 -2", "4 2", "-1 2"].flatMap((corner) => [`0 ${corner}`, `1 ${corner}`])),
    );
    expect(geometry.index!.count).toBe(8 * 3);
  });
});
