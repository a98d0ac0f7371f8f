import { Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { ballOf, colourOf, slopesOf, swellOf, tubesOf } from "./members";
import { PALETTE } from "./palette";

const [AXIS, SIDE, UP] = [new Vector3(0, 0, 1), new Vector3(1, 0, 0), new Vector3(0, 1, 0)];
/** A direction in x and z as two bytes; see `unfold`. */
const folded = (x: number) => [Math.round(x * 127), 0];

describe("slopes of planes that cut ends", () => {
  it("take as much along the axis as the plane is turned", () => {
    // Half-way between the axis backwards and the side: 45 degrees.
    const none = [-128, -128];
    const start = new Int8Array([...folded(0.5), ...none, ...none, ...none]);
    // The normal (0.5, 0, 0.5) leads out of the end of a member along z.
    const [y, z, ...second] = slopesOf(start, 0, AXIS, SIDE, UP, -1);
    expect(y).toBeCloseTo(1, 1);
    expect(z).toBeCloseTo(0, 6);
    expect(second).toEqual([0, 0]);
  });

  it("are nothing where no plane cuts", () => {
    expect(slopesOf(new Int8Array(8).fill(-128), 1, AXIS, SIDE, UP, 1)).toEqual([0, 0, 0, 0]);
  });
});

describe("tubes that ends of a piece fit", () => {
  it("are told cut by cut, start before end, with where each meets the axis", () => {
    const told = Array.from({ length: 2 }, (_, piece) =>
      Array.from({ length: 20 }, (_, k) => 100 * piece + k),
    ).flat();
    const { tubes, onAxis } = tubesOf(new Float32Array(told), 1);
    expect(tubes).toEqual([
      [100, 101, 102, 103],
      [105, 106, 107, 108],
      [110, 111, 112, 113],
      [115, 116, 117, 118],
    ]);
    expect(onAxis).toEqual([-104, -109, -114, -119]);
  });
});

describe("sizes of a swelling piece", () => {
  it("are those where its cuts leave it", () => {
    const [start, end] = swellOf(2, 1, 4, 1, 0.5);
    expect(start).toBeCloseTo(1.75);
    expect(end).toBeCloseTo(1.125);
    expect(swellOf(1, 1, 0, 0, 0)).toEqual([1, 1]);
  });
});

describe("what members are drawn in", () => {
  it("is their material, of steel the view's own colours, and darker along edges", () => {
    const timber: [number, number, number] = [178, 146, 92];
    expect(colourOf({ look: null, edge: false }).getHexString()).toBe(PALETTE.member.slice(1));
    expect(colourOf({ look: null, edge: true }).getHexString()).toBe(PALETTE.edge.slice(1));
    expect(colourOf({ look: timber, edge: false }).getHexString()).toBe("b2925c");
    const [light, dark] = [false, true].map((edge) => colourOf({ look: timber, edge }));
    expect(dark!.r).toBeLessThan(light!.r);
    expect(dark!.g).toBeLessThan(light!.g);
  });
});

describe("balls at nodes", () => {
  it("have as few corners as their sides need, all at their radius and looking outward", () => {
    const ball = ballOf(0.2, 1);
    const [place, normal] = [ball.getAttribute("position"), ball.getAttribute("normal")];
    expect(ball.index!.count).toBe(3 * 80);
    expect(place.count).toBe(42);
    for (let k = 0; k < place.count; k++) {
      const at = new Vector3().fromBufferAttribute(place, k);
      expect(at.length()).toBeCloseTo(0.2, 6);
      expect(at.normalize().dot(new Vector3().fromBufferAttribute(normal, k))).toBeCloseTo(1, 5);
    }
  });
});
