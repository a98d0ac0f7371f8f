import { expect, it } from "vitest";
import { sourceTitle } from "./sourceTitle";

const GLASS = "Deepen the cells to 0.012 m of glass, inside of the net, whole.";

it("is the title of the only one of its kind, and of one that says nothing yet", () => {
  expect(sourceTitle("Deepen cells", GLASS, false)).toBe("Deepen cells");
  expect(sourceTitle("Deepen cells", "", true)).toBe("Deepen cells");
  expect(sourceTitle("Deepen cells", undefined, true)).toBe("Deepen cells");
});

it("is what each of several says first, cut between words", () => {
  expect(sourceTitle("Deepen cells", GLASS, true)).toBe("Deepen the cells to 0.012 m of glass");
  expect(sourceTitle("Draw curves", "Draw 3 curves.", true)).toBe("Draw 3 curves");
  const long = sourceTitle(
    "Cut",
    "Cut openings by the closed curves square to their plane all through",
    true,
  );
  expect(long).toBe("Cut openings by the closed curves square to …");
});
