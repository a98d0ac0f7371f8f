import { type PointerEvent, useMemo, useRef, useState } from "react";
import { type Measure, measures, toldUntil } from "../api/catalogue";
import type { Outcome } from "../api/client";
import { type Live, lastOf } from "../live/live";
import { useOpened, useResults, useView } from "../state/opened";
import { type Item, item, parts } from "../state/view";
import { ChoiceEntries, Menu } from "../ui/Menu";
import { countsOf } from "../ui/spread";
import { capital } from "../ui/text";
import { extent, ramp } from "../view/palette";

const BINS = 28;
const [WIDTH, HEIGHT] = [208, 84];

interface Found {
  outcome: Outcome;
  values: ArrayLike<number>;
  before: ArrayLike<number> | undefined;
}

function valuesOf(live: Live, kind: Measure): Found | null {
  const outcome = lastOf(live, kind.type);
  const arrays = outcome && live.measures.get(outcome.key)?.arrays;
  const values = arrays?.[kind.name];
  return outcome && values ? { outcome, values, before: arrays[kind.before] } : null;
}

/** How a figure is spread: drag across the bars to pick what lies between. */
export function Distributions() {
  const { viewing } = useOpened();
  const live = useResults();
  const colourBy = useView((s) => s.colourBy);
  const [wanted, setKey] = useState("");
  const kinds = measures().filter((m) => m.spread && valuesOf(live, m));
  // A net's are not told first once there are members.
  const later = new Set(kinds.map((k) => k.type));
  const first = kinds.find((k) => !later.has(toldUntil(k.type))) ?? kinds[0];
  const kind = kinds.find((k) => k.key === wanted) ?? first;
  const found = kind && valuesOf(live, kind);
  if (!found) return null;
  const key = kind.key;
  const choose = (k: string) => {
    setKey(k);
    if (colourBy !== "none") viewing.getState().set({ colourBy: k });
  };
  return (
    <section className="mt-3 border-t border-rule pt-2">
      <Menu
        trigger={
          <button type="button" className="live !font-normal">
            {capital(kind.title)}
          </button>
        }
      >
        <ChoiceEntries value={key} onChoose={choose} choices={kinds} />
      </Menu>
      <Histogram
        kind={kind}
        clause={found.outcome.id}
        values={found.values}
        before={found.before}
        coloured={colourBy === key}
      />
      <label className="flex items-center gap-1.5 text-[13px] text-soft">
        <input
          type="checkbox"
          className="accent-plum"
          checked={colourBy === key}
          onChange={(e) => viewing.getState().set({ colourBy: e.target.checked ? key : "none" })}
        />
        colour the view by it
      </label>
    </section>
  );
}

const MOST_MARKS = 40;

/** Where those that are picked lie, as shares of the whole. */
function useMarked(clause: string, thing: string, values: ArrayLike<number>, low: number, high: number) {
  const selected = useView((s) => s.selected);
  return useMemo(() => {
    if (!thing || !(high > low) || selected.size > MOST_MARKS) return [];
    const mine = [...selected].map(parts).filter((p) => p.clause === clause && p.kind === thing);
    const shares = mine.map((p) => (values[p.index]! - low) / (high - low)).filter(Number.isFinite);
    return [...new Set(shares)];
  }, [selected, clause, thing, values, low, high]);
}

function Histogram({
  kind,
  clause,
  values,
  before,
  coloured,
}: {
  kind: Measure;
  clause: string;
  values: ArrayLike<number>;
  before: ArrayLike<number> | undefined;
  coloured: boolean;
}) {
  const { viewing } = useOpened();
  const [brush, setBrush] = useState<[number, number] | null>(null);
  const from = useRef<number | null>(null);
  const pointed = useRef<number | null>(null);
  const svg = useRef<SVGSVGElement>(null);
  const { low, high, counts, past } = useMemo(() => {
    const ends = [extent(values), ...(before ? [extent(before)] : [])];
    const [low, high] = [Math.min(...ends.map((e) => e[0])), Math.max(...ends.map((e) => e[1]))];
    const count = (some: ArrayLike<number>) => countsOf(some, low, high, BINS);
    return { low, high, counts: count(values), past: before ? count(before) : null };
  }, [values, before]);
  const most = Math.max(...counts, ...(past ?? []), 1);
  const height = (n: number) => (n ? Math.max(2, (n / most) * (HEIGHT - 6)) : 0);
  const bar = WIDTH / BINS;
  const share = (e: PointerEvent) => {
    const box = svg.current!.getBoundingClientRect();
    return Math.min(1, Math.max(0, (e.clientX - box.left) / box.width));
  };
  /** Things whose figures lie between two shares of the whole. */
  const between = (a: number, b: number): Item[] => {
    const { thing } = kind;
    if (!thing) return [];
    const [from, to] = [low + Math.min(a, b) * (high - low), low + Math.max(a, b) * (high - low)];
    const found: Item[] = [];
    for (let i = 0; i < values.length; i++)
      if (values[i]! >= from - 1e-9 && values[i]! <= to + 1e-9) found.push(item(clause, thing, i));
    return found;
  };
  const { point, select } = viewing.getState();
  /** Lights what one bar is of. */
  const pointAt = (at: number) => {
    const k = Math.min(BINS - 1, Math.floor(at * BINS));
    if (k === pointed.current) return;
    pointed.current = k;
    point(counts[k] ? between(k / BINS, (k + 1) / BINS) : []);
  };
  const marks = useMarked(clause, kind.thing, values, low, high);
  const ends = (s: number) => ((low + s * (high - low)) * kind.scale).toFixed(kind.digits);
  return (
    <>
      <svg
        ref={svg}
        data-testid="histogram"
        role="img"
        aria-label={`${capital(kind.title)} from ${ends(0)} to ${ends(1)} ${kind.unit}${kind.thing ? "; drag across to pick" : ""}`}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="mt-1 w-full cursor-crosshair touch-none"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          from.current = share(e);
          if (kind.thing) setBrush([from.current, from.current]);
        }}
        onPointerMove={(e) => {
          if (!kind.thing) return;
          if (from.current === null) pointAt(share(e));
          else setBrush([from.current, share(e)]);
        }}
        onPointerLeave={() => {
          pointed.current = null;
          point();
        }}
        onPointerUp={(e) => {
          const start = from.current;
          from.current = null;
          if (start === null) return;
          const end = share(e);
          if (Math.abs(end - start) < 0.01) {
            setBrush(null);
            select([]);
          } else select(between(start, end));
        }}
      >
        {brush && (
          <rect
            x={Math.min(...brush) * WIDTH}
            width={Math.abs(brush[1] - brush[0]) * WIDTH}
            height={HEIGHT}
            className="fill-plum-pale"
          />
        )}
        {counts.map((n, k) => {
          const size = height(n);
          return (
            <rect
              key={k}
              x={k * bar + 0.5}
              width={bar - 1}
              y={HEIGHT - size}
              height={size}
              fill={coloured ? ramp(k / (BINS - 1)) : "var(--color-bar)"}
            />
          );
        })}
        {past && (
          <path
            d={past.map((n, k) => `M${k * bar} ${HEIGHT - height(n)}h${bar}`).join("")}
            className="fill-none stroke-plum"
            strokeWidth={1.5}
          />
        )}
        {marks.map((at) => (
          <path
            key={at}
            d={`M${at * WIDTH - 3} 0h6l-3 5z`}
            className="fill-plum"
            data-testid="mark of what is picked"
          />
        ))}
        <line x1={0} x2={WIDTH} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} className="stroke-rule" />
      </svg>
      <p className="flex justify-between text-xs text-soft">
        <span>{ends(0)}</span>
        {brush && Math.abs(brush[1] - brush[0]) > 0.01 && (
          <span className="text-plum">
            {ends(Math.min(...brush))} – {ends(Math.max(...brush))}
          </span>
        )}
        <span>
          {ends(1)}&#8239;{kind.unit}
        </span>
      </p>
      {past && <p className="text-xs text-plum">Lines: before it settled</p>}
    </>
  );
}
