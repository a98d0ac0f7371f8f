import { expect, test } from "vitest";
import { figureText } from "./text";

test.each([
  [-0.0004, "mm", 0, "0\u202fmm"],
  [-0.6, "mm", 0, "-1\u202fmm"],
  [12_345, "kg", 0, "12.35\u202ft"],
  [1234.5, "", 1, "1,234.5"],
  [1200, "£", 0, "£1,200"],
])("%f %s is written to %i decimals as %s", (value, unit, decimals, text) => {
  expect(figureText(value, unit, decimals)).toBe(text);
});

test("words stay as they are", () => expect(figureText("flat", "m", 2)).toBe("flat"));
