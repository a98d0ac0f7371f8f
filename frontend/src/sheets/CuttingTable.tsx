import { useState } from "react";
import { Button } from "../ui/Button";
import { Menu, MenuEntry } from "../ui/Menu";
import { figureText } from "../ui/text";
import { type TableJob, type TableState, useCommand, type useCut } from "./table";

const STATES: Record<string, string> = { ready: "ready", running: "cutting", waiting: "waiting" };

const clock = (seconds: number) =>
  `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}\u202fmin`;

interface Props {
  number: number;
  count: number;
  table: TableState | undefined;
  cut: ReturnType<typeof useCut>;
  onShow: (place: [number, number]) => void;
}

/** The simulated cutting table: sheets are sent to it, it says what it cannot cut, and runs them. */
export function CuttingTable({ number, count, table, cut, onShow }: Props) {
  const command = useCommand();
  const all = async () => {
    for (let n = 1; n <= count; n++) if (!(await cut.mutateAsync(n)).job) break;
  };
  const job = table?.queue[0];
  return (
    <section className="border-t border-rule bg-leaf px-4 py-2" aria-label="Cutting table">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="mr-1 font-serif text-[17px]">
          Cutting table{" "}
          <span className={table?.state === "waiting" ? "text-amber" : "text-soft"} data-testid="table-state">
            {table ? STATES[table.state] : "…"}
          </span>
        </h2>
        <Button onClick={() => cut.mutate(number)} disabled={cut.isPending}>
          Send sheet {number}
        </Button>
        <Button onClick={() => void all()} disabled={cut.isPending}>
          Send all {count}
        </Button>
        {table?.state === "running" ? (
          <Button onClick={() => command.mutate({ do: "stop", value: 0 })}>Stop the table</Button>
        ) : (
          <Button
            tone={job ? "live" : "plain"}
            disabled={!job || !table?.goes_on}
            onClick={() => command.mutate({ do: "start", value: 0 })}
          >
            {job && job.done > 0 ? "Go on" : "Start the table"}
          </Button>
        )}
        <span className="grow" />
        {table && <TableSettings table={table} />}
      </div>
      {table?.says && (
        <p role="note" className="mt-1 rounded-sm bg-amber-pale px-2 py-1 text-[13px] text-amber">
          {table.says}{" "}
          {table.fault === "worn" && (
            <button
              type="button"
              className="underline"
              onClick={() => command.mutate({ do: "tool", value: table.tool })}
            >
              Change the tool
            </button>
          )}
          {table.fault === "missing" && (
            <button
              type="button"
              className="underline"
              onClick={() => command.mutate({ do: "sheet", value: 0 })}
            >
              Lay a sheet
            </button>
          )}
        </p>
      )}
      {[cut.error, command.error].map(
        (e, k) =>
          e && (
            <p
              key={k}
              role="alert"
              className="mt-1 rounded-sm bg-brick-pale px-2 py-1 text-[13px] text-brick"
            >
              {e.message}
            </p>
          ),
      )}
      {(cut.data?.faults ?? []).length > 0 && (
        <ul className="mt-1 max-h-20 overflow-y-auto rounded-sm bg-brick-pale px-2 py-1 text-[13px] text-brick">
          {cut.data!.faults!.map((f) => (
            <li key={f.text}>
              Refused: {f.text}{" "}
              <button type="button" className="underline" onClick={() => onShow([f.x, f.y])}>
                Show me
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className="mt-1 grid min-h-10 grid-cols-[minmax(0,1fr)_auto] gap-x-6 text-[13px]">
        {job ? <OnTable job={job} /> : <LastCut job={table?.finished[0]} />}
        <Waiting table={table} onClear={() => command.mutate({ do: "clear", value: 0 })} />
      </div>
    </section>
  );
}

function Lengths({ job }: { job: TableJob }) {
  return (
    <span className="text-soft">
      {figureText(job.cut_mm / 1000, "m", 1)} cut, {figureText(job.mark_mm / 1000, "m", 1)} lettering,{" "}
      {figureText(job.idle_mm / 1000, "m", 1)} between, {job.starts} outlines
    </span>
  );
}

function OnTable({ job }: { job: TableJob }) {
  return (
    <div data-testid="on-table">
      <div className="flex gap-3">
        <span>{job.name}</span>
        <span>
          {clock(job.done)} of {clock(job.seconds)}
        </span>
        <Lengths job={job} />
      </div>
      <div className="mt-1 h-1.5 bg-rule">
        <div
          className="h-full bg-moss"
          style={{ width: `${(100 * job.done) / Math.max(job.seconds, 1e-9)}%` }}
        />
      </div>
    </div>
  );
}

function LastCut({ job }: { job: TableJob | undefined }) {
  if (!job)
    return <p className="text-soft">Nothing has been sent yet. The table reads the sheet's DXF alone.</p>;
  return (
    <p data-testid="last-cut">
      <span className="text-moss">Cut:</span> {job.name} in {clock(job.seconds)}. <Lengths job={job} />
    </p>
  );
}

function Waiting({ table, onClear }: { table: TableState | undefined; onClear: () => void }) {
  const waiting = Math.max((table?.queue.length ?? 0) - 1, 0);
  return (
    <p className="text-right text-soft">
      {waiting > 0 ? `${waiting} more in the queue` : "queue empty"} · {table?.finished.length ?? 0} cut{" "}
      {(table?.queue.length ?? 0) > 0 && (
        <button type="button" className="underline" onClick={onClear}>
          Clear
        </button>
      )}
    </p>
  );
}

const PACES = [1, 30, 300];

/** The tool, how fast its clock runs, and what may go wrong. */
function TableSettings({ table }: { table: TableState }) {
  const command = useCommand();
  const [tool, setTool] = useState<string | null>(null);
  const change = () => {
    const width = Number(tool);
    if (tool !== null && width > 0 && width !== table.tool) command.mutate({ do: "tool", value: width });
    setTool(null);
  };
  return (
    <>
      <label className="flex items-center gap-1 text-[13px] text-soft">
        Tool
        <input
          className="live w-12 rounded-sm border border-rule bg-paper px-1 text-right"
          inputMode="decimal"
          value={tool ?? String(table.tool)}
          onChange={(e) => setTool(e.target.value)}
          onBlur={change}
          onKeyDown={(e) => e.key === "Enter" && change()}
        />
        mm
      </label>
      {command.error && <span className="text-[13px] text-brick">{command.error.message}</span>}
      <Menu align="end" trigger={<Button tone="quiet">{table.pace} × as fast</Button>}>
        {PACES.map((p) => (
          <MenuEntry key={p} onSelect={() => command.mutate({ do: "pace", value: p })}>
            {p === 1 ? "As fast as a real table" : `${p} times as fast`}
          </MenuEntry>
        ))}
      </Menu>
      <Menu align="end" trigger={<Button tone="quiet">Let it fail</Button>}>
        <MenuEntry onSelect={() => command.mutate({ do: "worn", value: 0 })}>Its tool is worn</MenuEntry>
        <MenuEntry onSelect={() => command.mutate({ do: "missing", value: 0 })}>
          Its sheet is missing
        </MenuEntry>
      </Menu>
    </>
  );
}
