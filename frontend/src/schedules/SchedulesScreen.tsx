import { useMemo, useState } from "react";
import { useSearchParams } from "react-router-dom";
import { catalogue } from "../api/catalogue";
import type { TableMessage } from "../api/client";
import { useLive, useOpened, useView } from "../state/opened";
import { item } from "../state/view";
import { Button } from "../ui/Button";
import { Menu, MenuEntry, TickEntries } from "../ui/Menu";
import { View } from "../view/View";
import { BarStrips } from "./BarStrips";
import { barsOf, tellsBars } from "./bars";
import { asTabs, type Cell, decimalsOf, headerText } from "./cells";
import { firstWithRows, lacks, typesMade } from "./first";
import { columnWidths, type Row, Rows } from "./Rows";
import { saveCsv, saveWorkbook } from "./saved";
import { byTypes, totalsOf, turned, typeColumnOf, without } from "./summed";
import { useHiddenColumns } from "./useHiddenColumns";
import { useSchedule } from "./useSchedule";

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

const COPIED_MS = 1500;

/** Schedules, sorted and filtered, linked with the view both ways. */
export function SchedulesScreen() {
  const { live } = useOpened();
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
  const [byType, setByType] = useState(false);
  const [hidden, setHidden] = useHiddenColumns(name);
  const selected = useView((s) => s.selected);
  const named = useMemo(() => tables?.[0]?.columns.map((c) => c.name) ?? [], [tables]);
  const canBeDrawn = tellsBars(named);
  const told = useMemo(() => rowsOf(tables ?? [], members), [tables, members]);
  const typeColumn = typeColumnOf(named);
  const { columns, rows: all } = useMemo(() => {
    const kept = without(hidden, named, told);
    const type = typeColumnOf(kept.columns);
    return byType && type > 0 ? byTypes(kept.columns, kept.rows, type) : kept;
  }, [named, told, byType, hidden]);
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
  const totals = useMemo(() => totalsOf(columns, rows), [columns, rows]);
  const widths = useMemo(
    () => columnWidths(columns, all, decimals, totals),
    [columns, all, decimals, totals],
  );
  const lacking = schedules.filter((s) => lacks(s, types) && s.name !== name);
  const shown = schedules.filter((s) => !lacking.includes(s));
  const fileName = `${live.getState().statement?.name ?? "schedule"} ${name}`;
  const open = (of: string) => {
    setSort(null);
    setByType(false);
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
      live.setState({ problem: "The browser did not let the table be copied; saving it as CSV works." });
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
          {typeColumn > 0 && (
            <Button aria-pressed={byType} onClick={() => setByType(!byType)}>
              {byType ? "One by one" : "By type"}
            </Button>
          )}
          {named.length > 1 && (
            <Menu trigger={<Button>{hidden.size ? `Columns, ${hidden.size} left out` : "Columns"}</Button>}>
              <TickEntries
                entries={named.slice(1).map((key) => ({ key, title: headerText(key).title }))}
                isTicked={(key) => !hidden.has(key)}
                onTurn={(key) => setHidden(turned(hidden, key))}
              />
            </Menu>
          )}
          <Menu
            trigger={<Button disabled={!rows.length}>{copied ? "Copied" : "Take along"}</Button>}
            align="end"
          >
            <MenuEntry onSelect={() => void copy()}>Copy as a table</MenuEntry>
            <MenuEntry onSelect={() => saveCsv(fileName, columns, rows)}>Save as CSV</MenuEntry>
            <MenuEntry onSelect={() => void saveWorkbook(fileName, columns, rows, totals)}>
              Save as a workbook, XLSX
            </MenuEntry>
          </Menu>
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
            totals={totals}
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
