import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router-dom";
import { catalogue } from "../api/catalogue";
import type { TableMessage } from "../api/client";
import { useLive } from "../live/live";
import { type Item, item, useView } from "../state/view";
import { Button } from "../ui/Button";
import { Menu, MenuEntry } from "../ui/Menu";
import { View } from "../view/View";
import { BarStrips } from "./BarStrips";
import { barsOf, tellsBars } from "./bars";
import { asCsv, asTabs, type Cell, cellText, decimalsOf, headerText } from "./cells";
import { firstWithRows, lacks, typesMade } from "./first";
import { useSchedule } from "./useSchedule";

interface Row {
  items: Item[];
  cells: Cell[];
}

/** Rows of all tables; a member type stands for all its members. */
function rowsOf(tables: TableMessage[], typed: TableMessage[] | undefined): Row[] {
  return tables.flatMap((table) => {
    const members = table.of === "member_type" ? typed?.find((t) => t.clause === table.clause) : undefined;
    const types = members?.columns.find((c) => c.name === "type")?.values;
    return table.index.map((index, r) => {
      const cells = table.columns.map((c) => c.values[r] ?? "");
      const items =
        table.of === "member_type"
          ? (types ?? []).flatMap((t, k) =>
              t === cells[0] ? [item(table.clause, "member", members!.index[k]!)] : [],
            )
          : [item(table.clause, table.of, index)];
      return { items, cells };
    });
  });
}

const byCell = (a: Cell, b: Cell): number =>
  typeof a === "number" && typeof b === "number"
    ? a - b
    : String(a).localeCompare(String(b), "en", { numeric: true });

/** Schedules, sorted and filtered, linked with the view both ways. */
export function SchedulesScreen() {
  const [search, setSearch] = useSearchParams();
  const { schedules } = catalogue();
  const outcomes = useLive((s) => s.outcomes);
  const types = useMemo(() => typesMade(outcomes), [outcomes]);
  const asked = schedules.find((s) => s.name === search.get("of"));
  const schedule = asked ?? firstWithRows(schedules, types)!;
  const { name } = schedule;
  const { tables, loading, error } = useSchedule(name);
  const { tables: members } = useSchedule("members");
  const [filter, setFilter] = useState("");
  const [sort, setSort] = useState<{ column: number; down: boolean } | null>(null);
  const [pickedOnly, setPickedOnly] = useState(false);
  const [drawn, setDrawn] = useState(true);
  const [copied, setCopied] = useState(false);
  const selected = useView((s) => s.selected);
  const columns = useMemo(() => tables?.[0]?.columns.map((c) => c.name) ?? [], [tables]);
  const canBeDrawn = tellsBars(columns);
  const all = useMemo(() => rowsOf(tables ?? [], members), [tables, members]);
  const decimals = useMemo(
    () =>
      columns.map((name, k) =>
        decimalsOf(
          name,
          all.map((r) => r.cells[k] ?? ""),
        ),
      ),
    [columns, all],
  );
  const widths = useMemo(() => columnWidths(columns, all, decimals), [columns, all, decimals]);
  const rows = useMemo(() => {
    const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
    let out = all.filter((r) => words.every((w) => r.cells.some((c) => String(c).toLowerCase().includes(w))));
    if (pickedOnly) out = out.filter((r) => r.items.some((i) => selected.has(i)));
    if (sort)
      out = [...out].sort(
        (a, b) => (sort.down ? -1 : 1) * byCell(a.cells[sort.column] ?? "", b.cells[sort.column] ?? ""),
      );
    return out;
  }, [all, filter, sort, pickedOnly, selected]);
  const lacking = schedules.filter((s) => lacks(s, types) && s.name !== name);
  const shown = schedules.filter((s) => !lacking.includes(s));
  const open = (of: string) => {
    setSort(null);
    setSearch({ of }, { replace: true });
  };
  const copy = async () => {
    const text = asTabs(
      columns,
      rows.map((r) => r.cells),
    );
    try {
      await navigator.clipboard.writeText(text);
      setCopied(true);
      setTimeout(() => setCopied(false), COPIED_MS);
    } catch {
      useLive.setState({ problem: "The browser did not let the table be copied; saving it as CSV works." });
    }
  };
  return (
    <main className="grid min-h-0 grid-cols-[minmax(0,1fr)_minmax(16rem,30%)]">
      <section className="flex min-h-0 min-w-0 flex-col">
        <div className="flex flex-wrap items-center gap-x-1 gap-y-1 border-b border-rule px-3 py-1.5">
          {shown.map((s) => (
            <button
              key={s.name}
              type="button"
              aria-pressed={s.name === name}
              className={`rounded-sm px-2 py-0.5 ${s.name === name ? "bg-plum-pale text-plum" : "hover:text-plum"} `}
              onClick={() => open(s.name)}
            >
              {s.title}
            </button>
          ))}
          {lacking.length > 0 && (
            <Menu
              trigger={
                <button type="button" className="live ml-2 !font-normal" data-value="lacking">
                  {lacking.length} without rows
                </button>
              }
            >
              {lacking.map((s) => (
                <MenuEntry key={s.name} onSelect={() => open(s.name)}>
                  <span className="w-44 shrink-0">{s.title}</span>
                  <span className="text-xs text-soft">{s.empty}</span>
                </MenuEntry>
              ))}
            </Menu>
          )}
        </div>
        <div className="flex items-center gap-3 px-3 py-1.5 text-[13px]">
          <input
            aria-label="Filter rows"
            placeholder="Filter: a label, a section, a number"
            className="w-64 rounded-sm border border-rule bg-field px-2 py-0.5"
            value={filter}
            onChange={(e) => setFilter(e.target.value)}
          />
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-plum"
              checked={pickedOnly}
              onChange={(e) => setPickedOnly(e.target.checked)}
            />
            picked only
          </label>
          <span className="text-soft">
            {rows.length.toLocaleString("en-GB")} of {all.length.toLocaleString("en-GB")} rows
            {loading ? " · renewing …" : ""}
          </span>
          <span className="grow" />
          {canBeDrawn && (
            <Button aria-pressed={drawn} onClick={() => setDrawn(!drawn)}>
              {drawn ? "Show as rows" : "Draw bar by bar"}
            </Button>
          )}
          <Button disabled={!rows.length} onClick={() => void copy()}>
            {copied ? "Copied" : "Copy as a table"}
          </Button>
          <Button disabled={!rows.length} onClick={() => saveCsv(name, columns, rows)}>
            Save as CSV
          </Button>
        </div>
        {error && <p className="mx-3 rounded-sm bg-brick-pale px-2 py-1 text-brick">{error.message}</p>}
        {tables && !tables.length && <p className="p-6 font-serif text-lg text-soft">{schedule.empty}</p>}
        {canBeDrawn && drawn && <BarStrips bars={barsOf(columns, all, rows)} />}
        {columns.length > 0 && !(canBeDrawn && drawn) && (
          <Rows
            columns={columns}
            rows={rows}
            widths={widths}
            decimals={decimals}
            sort={sort}
            onSort={setSort}
          />
        )}
      </section>
      <div className="min-h-0 border-l border-rule">
        <View handles={false} />
      </div>
    </main>
  );
}

const ROW = 26;
const COPIED_MS = 1500;
/** Room about the text of a cell, and the widest column, in characters. */
const [ROOM, WIDEST] = [3.6, 36];

interface RowsProps {
  columns: string[];
  rows: Row[];
  widths: number[];
  /** Of each column. */
  decimals: number[];
  sort: { column: number; down: boolean } | null;
  onSort: (sort: { column: number; down: boolean } | null) => void;
}

function Rows({ columns, rows, widths, decimals, sort, onSort }: RowsProps) {
  const box = useRef<HTMLDivElement>(null);
  const { selected, show, select } = useView();
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 20,
  });
  const numeric = columns.map((_, k) => typeof rows[0]?.cells[k] === "number");
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
    </div>
  );
}

/** Width of a character of the first column, which is of one width each, by that of a usual digit. */
const FIRST = 1.25;

/** Widths in characters that show every cell whole, up to a limit, with room about it. */
function columnWidths(columns: string[], rows: Row[], decimals: number[]) {
  return columns.map((name, k) => {
    const { title, unit } = headerText(name);
    const head = title.length + unit.length * 0.8;
    const wide = k === 0 ? FIRST : 1;
    const longest = rows.reduce(
      (most, r) => Math.max(most, cellText(r.cells[k] ?? "", decimals[k] ?? 0).length * wide),
      head,
    );
    return Math.min(longest + ROOM, WIDEST);
  });
}

function saveCsv(name: string, columns: string[], rows: Row[]) {
  const text = asCsv(
    columns,
    rows.map((r) => r.cells),
  );
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
  link.download = `${useLive.getState().statement?.name ?? "schedule"} ${name}.csv`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
