import { expect, test } from "vitest";
import { byTypes, totalsOf, turned, typeColumnOf, without } from "./summed";

const COLUMNS = ["label", "layer", "type", "cut_length_mm", "mass_kg", "roll_deg", "hole_mm"];
const ROWS = [
  { items: [], cells: ["M1", "grid", "T1", 1000, 5, 0, 18] },
  { items: [], cells: ["M2", "grid", "T1", 1000, 5, 30.25, 18] },
  { items: [], cells: ["E1", "edge", "T2", 2500, 20, 10, 22] },
];

test("lengths, areas and masses are summed up, and nothing else", () => {
  expect(totalsOf(COLUMNS, ROWS)).toEqual([null, null, null, 4500, 30, null, null]);
  expect(totalsOf(COLUMNS, [])).toEqual(COLUMNS.map(() => null));
});

test("one row a type says what its things have in common", () => {
  const at = typeColumnOf(COLUMNS);
  expect(at).toBe(2);
  expect(typeColumnOf(["label", "node"])).toBe(-1);
  const { columns, rows } = byTypes(COLUMNS, ROWS, at);
  expect(columns).toEqual([
    "type",
    "number",
    "layer",
    "cut_length_in_all_mm",
    "mass_in_all_kg",
    "roll_deg",
    "hole_mm",
  ]);
  expect(rows.map((r) => r.cells)).toEqual([
    ["T1", 2, "grid", 2000, 10, "0 – 30.3", 18],
    ["T2", 1, "edge", 2500, 20, 10, 22],
  ]);
  // What is summed up comes to the same, by types or one by one.
  expect(totalsOf(columns, rows)[3]).toBe(totalsOf(COLUMNS, ROWS)[3]);
});

test("columns are left out, but not the first one", () => {
  const hidden = turned(turned(new Set(), "type"), "label");
  const { columns, rows } = without(hidden, COLUMNS, ROWS);
  expect(columns).not.toContain("type");
  expect(columns[0]).toBe("label");
  expect(rows[2]!.cells).toEqual(["E1", "edge", 2500, 20, 10, 22]);
  expect(turned(hidden, "type").has("type")).toBe(false);
});
