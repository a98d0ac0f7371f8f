import { describe, expect, it, test } from "vitest";
import { feetText, typedLength } from "./lengths";

test.each([
  [`12' 6"`, "m", 3.81],
  ["12′ 6 1/2″", "m", 3.8227],
  [`12'6"`, "mm", 3810],
  ["3/4 in", "mm", 19.05],
  ["2 3/8 in", "mm", 60.325],
  ["6ft", "m", 1.8288],
  [`-1' 6"`, "m", -0.4572],
])("%s typed for a value in %s", (text, unit, value) => {
  expect(typedLength(text, unit, "metric")).toBeCloseTo(value, 9);
});

test.each(["bay / 2", "250 mm", "12", "", "'", "in", "12' bay", "3/0 in"])(
  "“%s” is no length with a unit",
  (text) => {
    expect(typedLength(text, "m", "metric")).toBeNull();
  },
);

test("other values than lengths have no feet", () => {
  expect(typedLength("12'", "°", "feet")).toBeNull();
});

describe("where lengths are in feet and inches", () => {
  it("a bare number is in feet, or in inches for what is small", () => {
    expect(typedLength("10", "m", "feet")).toBeCloseTo(3.048, 9);
    expect(typedLength("0.5", "mm", "feet")).toBeCloseTo(12.7, 9);
    expect(typedLength("3/4", "mm", "feet")).toBeCloseTo(19.05, 9);
  });

  test.each([
    [3.81, "m", "12′\u00a06″"],
    [3.8227, "m", "12′\u00a06\u00a01/2″"],
    [3.048, "m", "10′"],
    [-0.1524, "m", "-6″"],
    [0, "m", "0″"],
    [60.325, "mm", "2\u00a03/8″"],
    [0.5, "mm", "0.02″"],
    [3.6575, "m", "12′"],
  ])("%f %s is written as %s", (value, unit, text) => {
    expect(feetText(value, unit)).toBe(text);
  });

  it("what is written is read again within a thirty-second of an inch", () => {
    for (let k = 0; k < 400; k++) {
      const value = (k * k * 0.0137) % 90;
      expect(Math.abs(typedLength(feetText(value, "m"), "m", "feet")! - value)).toBeLessThan(
        0.0254 / 32 + 1e-9,
      );
    }
  });
});
