// @vitest-environment jsdom
import { expect, it } from "vitest";
import { type Lie, placing } from "./sheets";

const lies: Lie[] = [
  ["P1", 0, 10, 20, 0, false],
  ["P2", 0, 300, 20, 90, false],
];
const moved: Lie = ["P2", 1, 5, 6, 0, true];

it("says of all parts where they lie, as long as that is not known", () => {
  expect(placing(lies, [lies[0]!, moved], undefined)).toEqual([lies[0], moved]);
  expect(placing(lies, [lies[0]!, moved], [lies[0]])).toEqual([lies[0], moved]);
});

it("then says only which moved, and nothing where none did", () => {
  expect(placing(lies, [lies[0]!, moved], lies)).toEqual([moved]);
  expect(placing(lies, lies, lies)).toEqual([]);
});
