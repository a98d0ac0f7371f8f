/** The rows of a schedule. */

import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef } from "react";
import { useView } from "../state/opened";
import type { Item } from "../state/view";
import { countsOf } from "../ui/spread";
import { extent } from "../view/palette";
import { type Cell, cellText, headerText } from "./cells";

export interface Row {
  items: Item[];
  cells: Cell[];
}

const ROW = 26;
/** Room about the text of a cell, and the widest column, in characters. */
const [ROOM, WIDEST] = [3.6, 36];

interface RowsProps {
  columns: string[];
  rows: Row[];
  widths: number[];
  /** Of each column. */
  decimals: number[];
  /** Of each column; nothing of those that are not summed up. */
  totals: (number | null)[];
  sort: { column: number; down: boolean } | null;
  onSort: (sort: { column: number; down: boolean } | null) => void;
}

/** Rows as many as are seen, with their totals below them. */
export function Rows({ columns, rows, widths, decimals, totals, sort, onSort }: RowsProps) {
  const box = useRef<HTMLDivElement>(null);
  const { selected, show, select, point } = useView();
  useEffect(() => () => point(), [point]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 20,
  });
  const numeric = columns.map((_, k) => typeof rows[0]?.cells[k] === "number");
  const sparks = useMemo(() => sparksOf(columns, rows), [columns, rows]);
  const template = {
    gridTemplateColumns: widths.map((w) => `${w}ch`).join(" "),
  };
  const first = rows.findIndex((r) => r.items.some((i) => selected.has(i)));
  const mark = [...selected].slice(0, 3).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is newly picked is scrolled to, once
  useEffect(() => {
    if (first >= 0) virtual.scrollToIndex(first, { align: "auto" });
  }, [mark, rows.length > 0]);
  return (
    <div ref={box} className="min-h-0 grow overflow-auto" role="table" aria-rowcount={rows.length}>
      <div
        role="row"
        tabIndex={-1}
        className="sticky top-0 z-10 grid min-w-max border-b border-rule bg-paper text-[13px]"
        style={template}
      >
        {columns.map((c, k) => {
          const { title, unit } = headerText(c);
          const now = sort?.column === k;
          return (
            <div
              key={c}
              role="columnheader"
              tabIndex={-1}
              aria-sort={now ? (sort.down ? "descending" : "ascending") : "none"}
            >
              <button
                type="button"
                className={`w-full px-2 py-1 whitespace-nowrap text-soft hover:text-plum ${numeric[k] ? "text-right" : "text-left"}`}
                onClick={() => onSort(now && sort.down ? null : { column: k, down: now })}
              >
                {title}
                {unit && <span className="text-xs"> {unit}</span>}
                <span className="text-plum">{now ? (sort.down ? " ↓" : " ↑") : ""}</span>
                <Spark values={sparks[k] ?? null} />
              </button>
            </div>
          );
        })}
      </div>
      <div style={{ height: virtual.getTotalSize(), position: "relative" }} className="min-w-max text-[13px]">
        {virtual.getVirtualItems().map((v) => {
          const row = rows[v.index]!;
          const picked = row.items.some((i) => selected.has(i));
          return (
            <div
              key={v.key}
              role="row"
              tabIndex={0}
              aria-selected={picked}
              className={`absolute inset-x-0 grid items-center text-[13px] ${picked ? "bg-plum-pale" : "hover:bg-leaf"}`}
              style={{ ...template, height: ROW, transform: `translateY(${v.start}px)` }}
              onClick={(e) => (e.shiftKey || e.ctrlKey ? select(row.items, true) : show(row.items))}
              onKeyDown={(e) => e.key === "Enter" && show(row.items)}
              onPointerEnter={() => point(row.items)}
              onPointerLeave={() => point()}
              onFocus={() => point(row.items)}
              onBlur={() => point()}
            >
              {row.cells.map((c, k) => (
                <span
                  key={columns[k]}
                  role="cell"
                  className={`truncate px-2 ${numeric[k] ? "text-right" : ""} ${k === 0 ? "font-mono" : ""}`}
                  title={String(c)}
                >
                  {cellText(c, decimals[k] ?? 0)}
                </span>
              ))}
            </div>
          );
        })}
      </div>
      {totals.some((t) => t !== null) && (
        <div
          role="row"
          className="sticky bottom-0 z-10 grid min-w-max border-t border-rule bg-paper text-[13px]"
          style={template}
          tabIndex={-1}
          data-testid="totals"
        >
          {columns.map((name, k) => (
            <span key={name} role="cell" className="truncate px-2 py-1 text-right font-semibold">
              {k === 0 && <span className="block text-left font-normal text-soft">in all</span>}
              {totals[k] !== null && k > 0 && cellText(totals[k]!, decimals[k] ?? 0)}
            </span>
          ))}
        </div>
      )}
    </div>
  );
}

const [STEPS, HIGH] = [18, 12];
/** Rows from which on it says something how they are spread. */
const FEW = 6;

/** Of each column whose figures have a unit, how many rows lie where between the least and the most; nothing of others, or
 * where all are alike. */
export function sparksOf(columns: string[], rows: Row[]): (number[] | null)[] {
  return columns.map((name, k) => {
    if (!headerText(name).unit || rows.length < FEW) return null;
    const values = rows.map((row) => row.cells[k]).filter((c): c is number => typeof c === "number");
    const [low, high] = extent(values);
    return values.length === rows.length && high > low ? countsOf(values, low, high, STEPS) : null;
  });
}

/** How the figures of a column are spread, as small bars; none keep its place. */
function Spark({ values }: { values: number[] | null }) {
  if (!values) return <span className="block h-3" />;
  const most = Math.max(...values);
  const bars = values.map((n, k) => {
    const high = n ? Math.max(1.5, (n / most) * HIGH) : 0;
    return `M${k * 4} ${HIGH - high}h3.2v${high}h-3.2z`;
  });
  return (
    <svg
      viewBox={`0 0 ${STEPS * 4} ${HIGH}`}
      className="ml-auto block h-3 w-[72px] max-w-full fill-bar"
      aria-hidden="true"
      data-testid="spark"
    >
      <title>From the least to the most: how many rows lie there</title>
      <path d={bars.join("")} />
    </svg>
  );
}

/** Width of a character of the first column, which is of one width each, by that of a usual digit. */
const FIRST = 1.25;

/** Widths in characters that show every cell whole, up to a limit, with room about it. */
export function columnWidths(columns: string[], rows: Row[], decimals: number[], totals: (number | null)[]) {
  return columns.map((name, k) => {
    const { title, unit } = headerText(name);
    const head = title.length + unit.length * 0.8;
    const wide = k === 0 ? FIRST : 1;
    const longest = rows.reduce(
      (most, r) => Math.max(most, cellText(r.cells[k] ?? "", decimals[k] ?? 0).length * wide),
      Math.max(head, totals[k] === null ? 0 : cellText(totals[k]!, decimals[k] ?? 0).length),
    );
    return Math.min(longest + ROOM, WIDEST);
  });
}
