import { useEffect, useState } from "react";
import { Link, useParams } from "react-router-dom";
import { useOpened, useResults, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { figureText, togetherText } from "../ui/text";
import { AllSheets } from "./AllSheets";
import { Arrangement } from "./Arrangement";
import { CuttingTable } from "./CuttingTable";
import { SheetPicture, turnPart } from "./SheetPicture";
import { allSheets, liesOf, type PartRow, rearrange, type Sheet, useParts } from "./sheets";
import { sentAs, useCut, useMoves, useTable } from "./table";

/** Flat parts on their sheets: what each holds, how well it is used, and the table that cuts it. */
export function SheetsScreen() {
  const { project = "" } = useParams();
  const live = useResults();
  const sheets = allSheets(live);
  const [at, setAt] = useState(1);
  const [all, setAll] = useState(false);
  const [wrong, setWrong] = useState<[number, number] | null>(null);
  const number = Math.min(at, Math.max(sheets.length, 1));
  const parts = useParts();
  const selected = useView((s) => s.selected);
  const table = useTable().data;
  const keyOf = (n: number) => `${sheets[n - 1]?.outcome.key} ${n}`;
  const cut = useCut(project, keyOf);
  const first = table?.queue[0];
  const job = first && sentAs(first.number) === keyOf(number) ? first : undefined;
  const moves = useMoves(job?.number ?? null).data;
  const step = (by: number) => setAt(Math.min(sheets.length, Math.max(1, number + by)));
  // What was picked elsewhere is looked up here.
  const pickedOn = parts.flatMap((p) => (selected.has(p.item) && p.sheet !== "" ? [p.sheet] : []));
  const [firstPicked] = pickedOn;
  useEffect(() => {
    if (firstPicked) setAt(firstPicked);
  }, [firstPicked]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a place is wrong on one sheet only
  useEffect(() => setWrong(null), [number, cut.data]);
  const sheet = sheets[number - 1];
  if (!sheet)
    return (
      <main className="p-8 font-serif text-lg text-soft">
        No sheets yet: they come from a clause that sets panels, ribs, strips or templates out on sheets.{" "}
        <Link className="live" to={`/p/${project}`}>
          To the workbench
        </Link>
      </main>
    );
  const here = parts.filter((p) => p.sheet === number);
  const run =
    job && moves && table ? { moves, move: table.move ?? 0, x: table.x ?? 0, y: table.y ?? 0 } : null;
  return (
    <main className="grid min-h-0 grid-cols-[11rem_minmax(0,1fr)_17rem]">
      <nav className="overflow-y-auto border-r border-rule py-2" aria-label="Sheets">
        {sheets.map(({ used: share, grade }, k) => (
          <button
            key={k}
            type="button"
            title={grade}
            aria-pressed={number === k + 1}
            className={`flex w-full items-center gap-2 px-3 py-0.5 ${number === k + 1 ? "bg-plum-pale text-plum" : "hover:bg-leaf"}`}
            onClick={() => setAt(k + 1)}
          >
            <span className="w-14 text-left">Sheet {k + 1}</span>
            <span className="h-1.5 grow bg-rule">
              <span className="block h-full bg-ink" style={{ width: `${share * 100}%` }} />
            </span>
            <span className="w-9 text-right text-xs">{Math.round(share * 100)} %</span>
          </button>
        ))}
      </nav>
      <section className="flex min-h-0 min-w-0 flex-col bg-ground">
        <div className="flex items-center gap-2 bg-leaf/85 px-3 py-1.5">
          <Button aria-pressed={all} onClick={() => setAll(!all)}>
            {all ? "One by one" : "All sheets"}
          </Button>
          <Button onClick={() => step(-1)} disabled={number <= 1}>
            Previous
          </Button>
          <Button onClick={() => step(1)} disabled={number >= sheets.length}>
            Next
          </Button>
          <span className="font-serif text-[17px]">
            Sheet {number} <span className="text-soft">of {sheets.length}</span>
          </span>
          <span className="grow" />
          <span className="text-[13px] text-soft">
            {sheet.grade} · {togetherText([sheet.width, sheet.height], "mm", 0, " × ")} · {here.length}{" "}
            {here.length === 1 ? "part" : "parts"} · {Math.round(sheet.used * 100)} % used
          </span>
        </div>
        {all ? (
          <AllSheets
            sheets={sheets}
            parts={parts}
            number={number}
            picked={new Set(pickedOn)}
            onOpen={(n) => {
              setAt(n);
              setAll(false);
            }}
          />
        ) : (
          <>
            <SheetPicture number={number} sheet={sheet} parts={here} wrong={wrong} run={run} />
            <CuttingTable number={number} count={sheets.length} table={table} cut={cut} onShow={setWrong} />
          </>
        )}
      </section>
      <aside className="overflow-y-auto border-l border-rule p-3" aria-label="On this sheet">
        <SheetFigures sheet={sheet} />
        <Arrangement sheet={sheet} />
        <PartsHere sheet={sheet} number={number} here={here} left={parts.filter((p) => p.sheet === "")} />
      </aside>
    </main>
  );
}

function SheetFigures({ sheet }: { sheet: Sheet }) {
  return (
    <section>
      <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">All sheets</h2>
      <dl className="mb-3">
        {sheet.outcome.figures.map((f) => (
          <div key={f.name} className="flex justify-between" data-figure={f.name}>
            <dt className="text-soft">{f.label}</dt>
            <dd>{figureText(f.value, f.unit, f.decimals)}</dd>
          </div>
        ))}
      </dl>
      {sheet.outcome.warnings.map((w) => (
        <p
          key={w.text}
          role="note"
          className="mb-2 rounded-sm bg-amber-pale px-2 py-1 text-[13px] leading-snug text-amber"
        >
          {w.text}
        </p>
      ))}
    </section>
  );
}

interface PartsProps {
  sheet: Sheet;
  number: number;
  here: PartRow[];
  left: PartRow[];
}

function PartsHere({ sheet, number, here, left }: PartsProps) {
  const opened = useOpened();
  const { viewing } = opened;
  const { project = "" } = useParams();
  const selected = useView((s) => s.selected);
  const picked = here.find((p) => selected.has(p.item));
  const pinned = new Map(liesOf(sheet).map((l) => [l[0], l[5]]));
  const pin = (label: string, on: boolean) =>
    rearrange(opened, sheet, (l) => (l[0] === label ? [l[0], l[1], l[2], l[3], l[4], on] : l));
  return (
    <section>
      <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Sheet {number}</h2>
      <dl className="mb-2">
        <div className="flex justify-between">
          <dt className="text-soft">Waste</dt>
          <dd>{figureText(((1 - sheet.used) * sheet.width * sheet.height) / 1e6, "m²", 2)}</dd>
        </div>
        <div className="flex justify-between">
          <dt className="text-soft">Cutting length</dt>
          <dd>{figureText(here.reduce((n, p) => n + p.cut, 0) / 1000, "m", 1)}</dd>
        </div>
      </dl>
      {sheet.scored && (
        <p className="mb-2 text-[13px] text-soft" data-testid="fold-key">
          <span className="font-semibold text-moss">Folds</span>: whole lines go away from the side you see,
          lines open in the middle towards it.
        </p>
      )}
      {picked && (
        <div className="mb-2 border-y border-rule py-2">
          <p className="mb-1">
            <span className="font-mono">{picked.label}</span>{" "}
            <span className="text-[13px] text-soft">
              {pinned.get(picked.label) ? "pinned" : "free to move"}
            </span>
          </p>
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => void pin(picked.label, !pinned.get(picked.label))}>
              {pinned.get(picked.label) ? "Unpin" : "Pin"}
            </Button>
            <Button onClick={() => void turnPart(opened, sheet, picked.label)}>Turn</Button>
            <Link
              className="rounded-sm border border-rule bg-leaf px-3 py-1 text-sm hover:border-plum"
              to={`/p/${project}`}
              onClick={() => viewing.getState().show([...selected])}
            >
              Show in the model
            </Link>
          </div>
        </div>
      )}
      <table className="w-full text-[13px]">
        <thead className="text-xs text-soft">
          <tr>
            <th className="text-left font-normal">Part</th>
            <th className="text-right font-normal">area</th>
            <th className="text-right font-normal">cut</th>
          </tr>
        </thead>
        <tbody>
          {here.map((p) => (
            <tr key={p.label} className={selected.has(p.item) ? "bg-plum-pale" : ""}>
              <td>
                <button
                  type="button"
                  className="font-mono hover:text-plum"
                  onClick={() => viewing.getState().select([p.item])}
                >
                  {p.label}
                </button>
              </td>
              <td className="text-right">{figureText(p.area, "m²", 3)}</td>
              <td className="text-right">{figureText(p.cut / 1000, "m", 2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {left.length > 0 && (
        <p className="mt-3 rounded-sm bg-amber-pale px-2 py-1 text-[13px] text-amber">
          On no sheet:{" "}
          {left
            .slice(0, 12)
            .map((p) => p.label)
            .join(", ")}
          {left.length > 12 ? " …" : ""}
        </p>
      )}
    </section>
  );
}
