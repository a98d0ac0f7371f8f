import { describe, expect, it } from "vitest";
import { HIGH, SKETCHES, WIDE } from "./sketches";

/** Where absolute commands of a path lead. */
const places = (d: string) =>
  [...d.matchAll(/[ML]\s*(-?[\d.]+)[ ,]+(-?[\d.]+)/g)].map((m) => [Number(m[1]), Number(m[2])]);

describe("sketches of values", () => {
  it("lie within their frame, with what is told of each value", () => {
    for (const { parts, behind, marks } of Object.values(SKETCHES)) {
      const lines = Object.values(marks);
      expect(lines.length).toBeGreaterThan(2);
      const all = [...parts, ...behind, ...lines.map((m) => m.d)].flatMap(places);
      for (const [x, y] of [...all, ...lines.map((m) => m.at)]) {
        expect(x).toBeGreaterThanOrEqual(0);
        expect(x).toBeLessThanOrEqual(WIDE);
        expect(y).toBeGreaterThanOrEqual(0);
        expect(y).toBeLessThanOrEqual(HIGH);
      }
    }
  });

  it("tell no two values in one place", () => {
    for (const { marks } of Object.values(SKETCHES)) {
      const told = Object.values(marks).map((m) => m.at);
      for (const [k, a] of told.entries())
        for (const b of told.slice(k + 1)) expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeGreaterThan(14);
    }
  });
});
