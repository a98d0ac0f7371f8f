/** What rows of a schedule come to: totals, one row a type, and columns left out. */

import { type Cell, headerText } from "./cells";
import type { Row } from "./Rows";

/** Units of what is summed up; lengths only where they are called so. */
const SUMMED = ["kg", "m²", "m³"];
const LENGTHS = ["mm", "m"];
/** Columns that say of what type a thing is. */
const TYPES = ["type", "kind"];

export function isSummed(column: string): boolean {
  const { title, unit } = headerText(column);
  return SUMMED.includes(unit) || (LENGTHS.includes(unit) && /\blength( in all)?$/.test(title));
}

/** The sum of each column of which one wants to know it; nothing where there is none, or nothing to sum up. */
export const totalsOf = (columns: string[], rows: Row[]): (number | null)[] =>
  columns.map((name, k) => {
    if (!isSummed(name) || !rows.length) return null;
    return rows.reduce((sum, { cells }) => sum + (typeof cells[k] === "number" ? cells[k] : 0), 0);
  });

/** Where the column is that says of what type things are; -1 where there is none. */
export const typeColumnOf = (columns: string[]): number => columns.findIndex((c) => TYPES.includes(c));

/** One row a type: how many there are, sums of what is summed up, and of all else what they have in common, or from the
 * least to the greatest. */
export function byTypes(columns: string[], rows: Row[], type: number): { columns: string[]; rows: Row[] } {
  const groups = new Map<Cell, Row[]>();
  for (const row of rows) {
    const of = row.cells[type] ?? "";
    groups.set(of, [...(groups.get(of) ?? []), row]);
  }
  const others = columns.map((_, k) => k).filter((k) => k !== type && k > 0);
  const out = [...groups].map(([of, own]) => ({
    items: own.flatMap((row) => row.items),
    cells: [of, own.length, ...others.map((k) => together(own, k, isSummed(columns[k]!)))],
  }));
  return { columns: [columns[type]!, "number", ...others.map((k) => inAll(columns[k]!))], rows: out };
}

/** What a column is called that has sums: `mass_kg` is `mass_in_all_kg`. */
const inAll = (column: string): string =>
  isSummed(column) ? column.replace(/_([^_]+)$/, "_in_all_$1") : column;

function together(rows: Row[], column: number, summed: boolean): Cell {
  const cells = rows.map((row) => row.cells[column] ?? "");
  const numbers = cells.filter((cell) => typeof cell === "number");
  if (summed && numbers.length) return numbers.reduce((sum, value) => sum + value, 0);
  const [first] = cells;
  if (cells.every((cell) => cell === first)) return first!;
  if (numbers.length < cells.length) return "";
  return `${plain(Math.min(...numbers))} – ${plain(Math.max(...numbers))}`;
}

const plain = (value: number) => String(Number(value.toFixed(1)));

/** Rows without some of their columns; the first stays, as it names them. */
export function without(
  hidden: ReadonlySet<string>,
  columns: string[],
  rows: Row[],
): { columns: string[]; rows: Row[] } {
  if (!hidden.size) return { columns, rows };
  const kept = columns.map((_, k) => k).filter((k) => k === 0 || !hidden.has(columns[k]!));
  return {
    columns: kept.map((k) => columns[k]!),
    rows: rows.map((row) => ({ ...row, cells: kept.map((k) => row.cells[k]!) })),
  };
}

/** A set with something put in, or taken out where it was. */
export function turned(set: ReadonlySet<string>, key: string): ReadonlySet<string> {
  const out = new Set(set);
  if (!out.delete(key)) out.add(key);
  return out;
}
