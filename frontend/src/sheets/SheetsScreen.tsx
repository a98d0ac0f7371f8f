import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router-dom";
import type { Outcome } from "../api/client";
import { type Live, useLive, useResults } from "../live/live";
import { useSchedule } from "../schedules/useSchedule";
import { item, useView } from "../state/view";
import { Button } from "../ui/Button";
import { figureText } from "../ui/text";

interface PartRow {
  label: string;
  sheet: number | "";
  area: number;
  cut: number;
  item: string;
}

function useParts(): PartRow[] {
  const { tables } = useSchedule("parts");
  return useMemo(
    () =>
      (tables ?? []).flatMap((t) => {
        const column = (name: string) => t.columns.find((c) => c.name === name)?.values ?? [];
        const [label, sheet, area, cut] = ["label", "sheet", "area_m2", "cut_length_mm"].map(column);
        return t.index.map((index, r) => ({
          label: String(label![r]),
          sheet: sheet![r] === "" ? "" : Number(sheet![r]),
          area: Number(area![r]),
          cut: Number(cut![r]),
          item: item(t.clause, t.of === "rib" ? "rib" : "panel", index),
        }));
      }),
    [tables],
  );
}

interface Sheet {
  outcome: Outcome;
  used: number;
  width: number;
  height: number;
}

/** All sheets in the order of their numbers: those of each labelled frame after those of the one before. */
function allSheets(live: Live): Sheet[] {
  const done = (live.statement?.clauses ?? []).flatMap((c) => {
    const outcome = live.outcomes[c.id];
    const shown = outcome?.status === "done" && !c.off ? live.geometry.get(outcome.key) : undefined;
    return outcome && shown ? [{ outcome, shown }] : [];
  });
  return done
    .filter((d) => d.shown.layer === "labels" || d.shown.layer === "ribs")
    .flatMap((source) => {
      const own = done
        .filter(
          (d) =>
            d.shown.layer === "sheets" &&
            [d.outcome.inputs.labelled, d.outcome.inputs.ribs].includes(source.outcome.id),
        )
        .at(-1);
      const { used = [], width = 0, height = 0 } = own?.shown.meta ?? {};
      return used.map((share) => ({ outcome: own!.outcome, used: share, width, height }));
    });
}

/** Flat parts on their sheets: what each holds, how well it is used, how long the cut is. */
export function SheetsScreen() {
  const { project = "" } = useParams();
  const live = useResults();
  const sheets = allSheets(live);
  const [at, setAt] = useState(1);
  const number = Math.min(at, Math.max(sheets.length, 1));
  const parts = useParts();
  const selected = useView((s) => s.selected);
  const here = parts.filter((p) => p.sheet === number);
  const left = parts.filter((p) => p.sheet === "");
  const step = (by: number) => setAt(Math.min(sheets.length, Math.max(1, number + by)));
  // What was picked elsewhere is looked up here.
  const firstPicked = parts.find((p) => selected.has(p.item))?.sheet;
  useEffect(() => {
    if (firstPicked) setAt(firstPicked);
  }, [firstPicked]);
  const sheet = sheets[number - 1];
  if (!sheet)
    return (
      <main className="p-8 font-serif text-lg text-soft">
        No sheets yet: they come from a clause that sets panels or ribs out on sheets.{" "}
        <Link className="live" to={`/p/${project}`}>
          To the workbench
        </Link>
      </main>
    );
  return (
    <main className="grid min-h-0 grid-cols-[11rem_minmax(0,1fr)_16rem]">
      <nav className="overflow-y-auto border-r border-rule py-2" aria-label="Sheets">
        {sheets.map(({ used: share }, k) => (
          <button
            key={k}
            type="button"
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
            {sheet.width} × {sheet.height} mm · {here.length} parts · {Math.round(sheet.used * 100)} % used
          </span>
        </div>
        <SheetPicture number={number} sheetKey={sheet.outcome.key} parts={here} />
      </section>
      <aside className="overflow-y-auto border-l border-rule p-3" aria-label="On this sheet">
        <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">All sheets</h2>
        <dl className="mb-3">
          {sheet.outcome.figures.map((f) => (
            <div key={f.name} className="flex justify-between">
              <dt className="text-soft">{f.label}</dt>
              <dd>{figureText(f.value, f.unit, f.decimals)}</dd>
            </div>
          ))}
        </dl>
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
        <table className="w-full text-[13px]">
          <thead className="text-xs text-soft">
            <tr>
              <th className="text-left font-normal">Part</th>
              <th className="text-right font-normal">area m²</th>
              <th className="text-right font-normal">cut m</th>
            </tr>
          </thead>
          <tbody>
            {here.map((p) => (
              <tr key={p.label} className={selected.has(p.item) ? "bg-plum-pale" : ""}>
                <td>
                  <button
                    type="button"
                    className="font-mono hover:text-plum"
                    onClick={() => useView.getState().select([p.item])}
                  >
                    {p.label}
                  </button>
                </td>
                <td className="text-right">{p.area.toFixed(3)}</td>
                <td className="text-right">{(p.cut / 1000).toFixed(2)}</td>
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
        {[...selected].some((s) => here.some((p) => p.item === s)) && (
          <Link
            className="mt-3 inline-block rounded-sm border border-rule bg-leaf px-3 py-1 hover:border-plum"
            to={`/p/${project}`}
            onClick={() => useView.getState().show([...selected])}
          >
            Show in the model
          </Link>
        )}
      </aside>
    </main>
  );
}

/** A part's name large enough to read on the screen; its outline goes beneath everything else of it. */
function writeName(part: SVGGElement) {
  const outline = part.querySelector<SVGPathElement>(".CUT_OUTER");
  if (!outline) return;
  part.prepend(outline);
  const points =
    (outline.getAttribute("d") ?? "").match(/[\d.]+,[\d.]+/g)?.map((p) => p.split(",").map(Number)) ?? [];
  const middle = [0, 1].map((k) => points.reduce((n, p) => n + (p[k] ?? 0), 0) / Math.max(points.length, 1));
  const { width, height } = outline.getBBox();
  const text = document.createElementNS("http://www.w3.org/2000/svg", "text");
  const size = Math.min(width, height) / 7;
  const style = {
    x: middle[0],
    y: middle[1]! - size * 0.75,
    "font-size": size,
    "text-anchor": "middle",
    fill: "#262f5c",
  };
  for (const [name, value] of Object.entries(style)) text.setAttribute(name, String(value));
  text.setAttribute("font-family", "JetBrains Mono Variable, monospace");
  text.textContent = part.id;
  part.append(text);
}

function SheetPicture({ number, sheetKey, parts }: { number: number; sheetKey: string; parts: PartRow[] }) {
  const project = useLive((s) => s.project);
  const selected = useView((s) => s.selected);
  const host = useRef<HTMLDivElement>(null);
  const { data, error } = useQuery({
    queryKey: ["sheet", project, sheetKey, number],
    queryFn: async () => {
      const answer = await fetch(`/api/projects/${project}/sheets/${number}.svg`);
      if (!answer.ok) throw new Error((await answer.json()).detail);
      return answer.text();
    },
    staleTime: Number.POSITIVE_INFINITY,
  });
  useEffect(() => {
    if (!host.current || !data) return;
    const svg = new DOMParser().parseFromString(data, "image/svg+xml").documentElement;
    svg.removeAttribute("width");
    svg.removeAttribute("height");
    svg.setAttribute("class", "size-full");
    svg.querySelector("rect")?.setAttribute("fill", "#fdfaf2");
    host.current.replaceChildren(svg);
    for (const part of svg.querySelectorAll<SVGGElement>(".PART")) writeName(part);
  }, [data]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new picture is painted too
  useEffect(() => {
    for (const p of parts) {
      const outline = host.current?.querySelector(`[id="${p.label}"] .CUT_OUTER`);
      outline?.setAttribute("fill", selected.has(p.item) ? "#f0dfe8" : "#f3ecd9");
    }
  }, [data, parts, selected]);
  const click = (target: Element) => {
    const label = target.closest(".PART")?.id;
    const part = parts.find((p) => p.label === label);
    useView.getState().select(part ? [part.item] : []);
  };
  return (
    <div className="min-h-0 grow p-4">
      {error && <p className="text-brick">{error.message}</p>}
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the list beside it does the same by keyboard */}
      <div
        ref={host}
        className="size-full"
        role="img"
        aria-label={`Sheet ${number}`}
        onClick={(e) => click(e.target as Element)}
      />
    </div>
  );
}
