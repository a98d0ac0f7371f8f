/** Rows of members on stock bars, gathered bar by bar for a drawing of them. */
import type { Item } from "../state/view";

export interface PlainRow {
  items: Item[];
  cells: (string | number)[];
}

export interface Piece {
  label: string;
  item: Item | undefined;
  from: number;
  to: number;
}

export interface Bar {
  label: string;
  section: string;
  /** Its length and what is left of it behind its last piece and the cut, in millimetres. */
  stock: number;
  left: number;
  pieces: Piece[];
}

const COLUMNS = ["bar", "section", "stock_mm", "member", "from_mm", "to_mm", "kerf_mm"] as const;

/** Whether a table tells what lies where on which bar. */
export const tellsBars = (columns: string[]) => COLUMNS.every((name) => columns.includes(name));

/** Bars of which at least one row is `shown`, each whole, in the order of all `rows`. */
export function barsOf(columns: string[], rows: PlainRow[], shown: PlainRow[]): Bar[] {
  const at = Object.fromEntries(COLUMNS.map((name) => [name, columns.indexOf(name)]));
  const wanted = new Set(shown.map((row) => row.cells[at.bar!]));
  const bars = new Map<string | number, Bar>();
  for (const { cells, items } of rows) {
    const label = cells[at.bar!]!;
    if (!wanted.has(label)) continue;
    const bar = bars.get(label) ?? {
      label: String(label),
      section: String(cells[at.section!]),
      stock: Number(cells[at.stock_mm!]),
      left: 0,
      pieces: [],
    };
    const [from, to, kerf] = [at.from_mm, at.to_mm, at.kerf_mm].map((k) => Number(cells[k!]));
    bar.pieces.push({ label: String(cells[at.member!]), item: items[0], from: from!, to: to! });
    bar.left = Math.max(bar.stock - Math.max(...bar.pieces.map((p) => p.to)) - kerf!, 0);
    bars.set(label, bar);
  }
  return [...bars.values()];
}
