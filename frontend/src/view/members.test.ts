import { Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { slopesOf } from "./members";

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
