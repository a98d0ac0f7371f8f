/** How headers and cells of schedules read, and what is copied of them. */
export type Cell = string | number;

const UNITS: Record<string, string> = {
  mm: "mm",
  m: "m",
  m2: "m²",
  m3: "m³",
  kg: "kg",
  deg: "°",
  MPa: "MPa",
};
/** What is worth reading of a number, by its unit: files have all of it. */
const DECIMALS: Record<string, number> = { mm: 1, m: 3, "m²": 3, "m³": 4, kg: 2, "°": 2, MPa: 1 };
const OTHERS = 3;

/** Headers carry their unit at the end: `cut_length_mm` is “cut length” in mm. */
export function headerText(name: string): { title: string; unit: string } {
  const match = /^(.*)_([A-Za-z]+[23]?)$/.exec(name);
  const unit = UNITS[match?.[2] ?? ""] ?? "";
  return { title: (unit ? match![1]! : name).replaceAll("_", " "), unit };
}

/** With how many decimals the numbers of a column are shown: none where all are whole. */
export function decimalsOf(name: string, cells: Iterable<Cell>): number {
  for (const cell of cells)
    if (typeof cell === "number" && !Number.isInteger(cell)) return DECIMALS[headerText(name).unit] ?? OTHERS;
  return 0;
}

export const cellText = (cell: Cell, decimals: number): string =>
  typeof cell === "number" ? cell.toFixed(decimals) : cell;

/** Rows as spreadsheets take them from the clipboard, with all decimals there are. */
export function asTabs(columns: readonly string[], rows: readonly (readonly Cell[])[]): string {
  const plain = (cell: Cell) => String(cell).replaceAll(/[\t\n]/g, " ");
  return [columns, ...rows].map((row) => row.map(plain).join("\t")).join("\n");
}

export function asCsv(columns: readonly string[], rows: readonly (readonly Cell[])[]): string {
  const quoted = (cell: Cell) =>
    /[",\n]/.test(String(cell)) ? `"${String(cell).replaceAll('"', '""')}"` : String(cell);
  return `${[columns, ...rows].map((row) => row.map(quoted).join(",")).join("\n")}\n`;
}
