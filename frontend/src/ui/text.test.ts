import { afterEach, expect, test } from "vitest";
import { useLengths } from "./lengths";
import { figureText, saidText, togetherText } from "./text";

afterEach(() => useLengths.setState({ system: "metric" }));

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

test("lengths in a sentence are written as the project has them, each in its place", () => {
  const lengths = [
    { at: 10, words: "304.8 × 152.4 mm", values: [304.8, 152.4], unit: "mm", form: "{} × {}" },
    { at: 30, words: "(3.05, 0.00, 0.30) m", values: [3.048, 0, 0.3048], unit: "m", form: "({}, {}, {})" },
  ] as const;
  const text = "A sheet of 304.8 × 152.4 mm at (3.05, 0.00, 0.30) m is one of 2.";
  const told = lengths.map((l) => ({ ...l, at: text.indexOf(l.words), values: [...l.values] }));
  expect(saidText(text, told)).toBe(text);
  useLengths.setState({ system: "feet" });
  expect(saidText(text, told)).toBe("A sheet of 12″ × 6″ at (10′, 0″, 1′) is one of 2.");
});

test("numbers that go together bear their unit once, or each in feet and inches", () => {
  expect(togetherText([2500, 1250], "mm", 0, " × ")).toBe("2500 × 1250\u202fmm");
  useLengths.setState({ system: "feet" });
  expect(togetherText([3.048, 0.3048], "m", 2, "  ")).toBe("10′  1′");
});
