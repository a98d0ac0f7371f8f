import { Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { movesApart } from "./apart";

const ring = (z: number) => [
  new Vector3(1, 0, z),
  new Vector3(-1, 0, z),
  new Vector3(0, 1, z),
  new Vector3(0, -1, z),
];
const two = [...ring(0), ...ring(2)];
const groups = new Uint16Array([0, 0, 0, 0, 1, 1, 1, 1]);

describe("things shown apart", () => {
  it("move away from the middle of the ground, the further the further they are", () => {
    const moves = movesApart(two, undefined, { by: "thing", share: 0.5 });
    expect(moves[0]!.toArray()).toEqual([0.6, 0, 0]);
    expect(moves[5]!.x).toBeCloseTo(-0.6);
    expect(moves[5]!.z).toBeCloseTo(1.2);
  });

  it("are lifted ring by ring in groups, which stay as they are", () => {
    const moves = movesApart(two, groups, { by: "group", share: 1 });
    for (const move of moves.slice(0, 4)) expect(move.length()).toBeCloseTo(0);
    for (const move of moves.slice(4)) {
      expect(move.z).toBeCloseTo(2.4);
      expect(Math.hypot(move.x, move.y)).toBeCloseTo(0);
    }
  });

  it("stay where they are by no share", () => {
    for (const move of movesApart(two, groups, { by: "thing", share: 0 })) expect(move.length()).toBe(0);
  });
});
