import { expect, it } from "vitest";
import { barsOf, type PlainRow, tellsBars } from "./bars";

const columns = ["bar", "section", "stock_mm", "member", "from_mm", "to_mm", "kerf_mm"];
const row = (bar: string, member: string, from: number, to: number): PlainRow => ({
  items: [`frame/member/${member}`],
  cells: [bar, "CHS 60.3 × 4", 6000, member, from, to, 4],
});
const rows = [row("B1", "M1", 0, 2500), row("B1", "M2", 2504, 5900), row("B2", "M3", 0, 5999)];

it("gathers pieces bar by bar, with what is left behind the last cut", () => {
  const [one, other] = barsOf(columns, rows, rows);
  expect(one).toMatchObject({ label: "B1", section: "CHS 60.3 × 4", stock: 6000, left: 96 });
  expect(one!.pieces.map((p) => [p.label, p.from, p.to])).toEqual([
    ["M1", 0, 2500],
    ["M2", 2504, 5900],
  ]);
  // The last millimetre goes with the cut.
  expect(other!.left).toBe(0);
});

it("keeps bars whole of which one piece is asked for, and leaves out the others", () => {
  const found = barsOf(columns, rows, [rows[1]!]);
  expect(found.map((b) => b.label)).toEqual(["B1"]);
  expect(found[0]!.pieces).toHaveLength(2);
});

it("knows a table of bars by its columns, in any order", () => {
  expect(tellsBars([...columns].reverse())).toBe(true);
  expect(tellsBars(columns.slice(1))).toBe(false);
});
