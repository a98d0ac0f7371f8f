/** Schedules as files that are saved from the screen. */

import { saveAs } from "../ui/saving";
import { asCsv, headerText } from "./cells";
import type { Row } from "./Rows";

export function saveCsv(name: string, columns: string[], rows: Row[]) {
  const text = asCsv(
    columns,
    rows.map((r) => r.cells),
  );
  saveAs(new Blob([text], { type: "text/csv" }), `${name}.csv`);
}

/** A workbook of one sheet: headers with their units, numbers as numbers, and the totals below them. */
export async function saveWorkbook(name: string, columns: string[], rows: Row[], totals: (number | null)[]) {
  const { default: written } = await import("write-excel-file/browser");
  const header = columns.map((column) => {
    const { title, unit } = headerText(column);
    return { value: unit ? `${title} (${unit})` : title, fontWeight: "bold" as const };
  });
  const told = rows.map((row) => row.cells.map((value) => ({ value })));
  const sums = totals.map((value, k) =>
    value === null ? { value: k ? "" : "in all" } : { value, fontWeight: "bold" as const },
  );
  const below = totals.some((t) => t !== null) ? [sums] : [];
  const book = written([header, ...told, ...below], { stickyRowsCount: 1 });
  saveAs(await book.toBlob(), `${name}.xlsx`);
}
