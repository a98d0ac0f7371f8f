import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { type Opened, useLive, useOpened, useView } from "../state/opened";
import { withoutName, written } from "./names";
import { type Lie, type PartRow, rearrange, type Sheet } from "./sheets";
import type { TableMove } from "./table";

const MOVED_MM = 2;
const NUDGE_MM = 10;
const SVG = "http://www.w3.org/2000/svg";

/** A part's name large enough to read on the screen; its outline goes beneath everything else of it. */
function writeName(part: SVGGElement) {
  const outline = part.querySelector<SVGPathElement>(".CUT_OUTER");
  if (!outline) return;
  part.prepend(outline);
  const inner = part.querySelector(".CUT_INNER")?.getAttribute("d") ?? "";
  const found = written(part.id, outline.getAttribute("d") ?? "", inner);
  if (!found) return;
  const marks = part.querySelector(".MARK");
  marks?.setAttribute("d", withoutName(marks.getAttribute("d") ?? "", found));
  const text = document.createElementNS(SVG, "text");
  const style = {
    x: found.at[0],
    y: found.at[1] + found.size * 0.35,
    "font-size": found.size,
    "text-anchor": "middle",
    fill: "#262f5c",
    stroke: "#f3ecd9",
    "stroke-width": found.size / 4,
    "paint-order": "stroke",
  };
  for (const [name, value] of Object.entries(style)) text.setAttribute(name, String(value));
  text.setAttribute("font-family", "JetBrains Mono Variable, monospace");
  text.textContent = part.id;
  part.append(text);
}

/** A lie turned by a quarter about a place on its sheet. */
function turned([label, slot, x, y, turn]: Lie, [cx, cy]: [number, number]): Lie {
  return [label, slot, cx - (y - cy), cy + (x - cx), (turn + 90) % 360, true];
}

interface Props {
  number: number;
  sheet: Sheet;
  parts: PartRow[];
  /** A place (mm) to mark as wrong. */
  wrong: [number, number] | null;
  /** The way of the tool, of which so many moves are done, and where it is. */
  run: { moves: TableMove[]; move: number; x: number; y: number } | null;
}

/** A sheet as it will be cut. Parts are dragged to where they are to stay. */
export function SheetPicture({ number, sheet, parts, wrong, run }: Props) {
  const opened = useOpened();
  const { viewing } = opened;
  const project = useLive((s) => s.project);
  const selected = useView((s) => s.selected);
  const host = useRef<HTMLDivElement>(null);
  const drag = useRef<{ part: SVGGElement; from: DOMPoint; by: [number, number] } | null>(null);
  const { data, error } = useQuery({
    queryKey: ["sheet", project, sheet.outcome.key, number],
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
    svg.setAttribute("class", "size-full touch-none");
    svg.querySelector("rect")?.setAttribute("fill", "#fdfaf2");
    host.current.replaceChildren(svg);
    for (const part of svg.querySelectorAll<SVGGElement>(".PART")) writeName(part);
    const aids = document.createElementNS(SVG, "g");
    aids.setAttribute("class", "aids");
    svg.append(aids);
  }, [data]);
  const pinned = new Set(
    (sheet.shown.meta.labels ?? []).filter((_, i) => sheet.shown.arrays.pinned?.[i] === 1),
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new picture is painted too
  useEffect(() => {
    for (const p of parts) {
      const outline = host.current?.querySelector(`[id="${p.label}"] .CUT_OUTER`);
      const own = pinned.has(p.label) ? "#e4ead9" : "#f3ecd9";
      outline?.setAttribute("fill", selected.has(p.item) ? "#f0dfe8" : own);
    }
  }, [data, parts, selected, sheet]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new picture is drawn over too
  useEffect(() => {
    const aids = host.current?.querySelector(".aids");
    if (!aids) return;
    const flat = (way: [number, number][]) => way.map(([x, y]) => `${x},${sheet.height - y}`).join(" ");
    const line = (way: [number, number][], colour: string, dash = "") =>
      `<polyline points="${flat(way)}" fill="none" stroke="${colour}" stroke-width="2" stroke-dasharray="${dash}" vector-effect="non-scaling-stroke"/>`;
    const done = run?.moves.slice(0, run.move) ?? [];
    const ways = done.map((m) =>
      m.kind === "idle"
        ? line(m.way, "#b07818", "3 4")
        : line(m.way, m.kind === "cut" ? "#3f6b35" : "#7a2e62"),
    );
    const r = sheet.height / 60;
    const tool = run
      ? `<circle cx="${run.x}" cy="${sheet.height - run.y}" r="${r / 2}" fill="#7a2e62"/>`
      : "";
    const cross = wrong
      ? `<circle cx="${wrong[0]}" cy="${sheet.height - wrong[1]}" r="${r}" fill="none" stroke="#9c2f21" stroke-width="3" vector-effect="non-scaling-stroke"/>`
      : "";
    aids.innerHTML = ways.join("") + tool + cross;
  }, [data, run, wrong, sheet]);

  const onSheet = (e: React.PointerEvent) => {
    const svg = host.current?.querySelector("svg");
    const matrix = svg?.getScreenCTM()?.inverse();
    return matrix ? new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix) : new DOMPoint();
  };
  const down = (e: React.PointerEvent) => {
    const part = (e.target as Element).closest<SVGGElement>(".PART");
    const row = parts.find((p) => p.label === part?.id);
    viewing.getState().select(row ? [row.item] : []);
    if (!part || e.button !== 0) return;
    drag.current = { part, from: onSheet(e), by: [0, 0] };
    host.current?.setPointerCapture(e.pointerId);
  };
  const move = (e: React.PointerEvent) => {
    const held = drag.current;
    if (!held) return;
    const at = onSheet(e);
    held.by = [at.x - held.from.x, at.y - held.from.y];
    if (Math.hypot(...held.by) > MOVED_MM)
      held.part.setAttribute("transform", `translate(${held.by[0]} ${held.by[1]})`);
  };
  const up = () => {
    const held = drag.current;
    drag.current = null;
    if (!held || Math.hypot(...held.by) <= MOVED_MM) return;
    void shift(held.part.id, held.by[0], -held.by[1]).then((made) => {
      if (!made) held.part.removeAttribute("transform");
    });
  };
  const shift = (label: string, dx: number, dy: number) =>
    rearrange(opened, sheet, (l) => (l[0] === label ? [l[0], l[1], l[2] + dx, l[3] + dy, l[4], true] : l));
  const key = (e: React.KeyboardEvent) => {
    const label = parts.find((p) => selected.has(p.item))?.label;
    const step = e.shiftKey ? 1 : NUDGE_MM;
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step],
    };
    if (!label) return;
    const way = ways[e.key];
    if (way) void shift(label, ...way);
    else if (e.key === "t") void turnPart(opened, sheet, label);
    else return;
    e.preventDefault();
  };
  return (
    <div className="min-h-0 grow p-4">
      {error && <p className="text-brick">{error.message}</p>}
      <div
        ref={host}
        className="size-full cursor-grab outline-offset-4 active:cursor-grabbing"
        role="application"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: parts are nudged with the arrow keys
        tabIndex={0}
        aria-label={`Sheet ${number}: arrow keys move the picked part by ${NUDGE_MM} mm, with Shift by 1 mm; T turns it`}
        data-testid="sheet-picture"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={() => {
          drag.current?.part.removeAttribute("transform");
          drag.current = null;
        }}
        onKeyDown={key}
      />
    </div>
  );
}

/** Turns a part by a quarter about the middle of its outline. */
export function turnPart(opened: Opened, sheet: Sheet, label: string) {
  const box = document.querySelector<SVGPathElement>(`[id="${label}"] .CUT_OUTER`)?.getBBox();
  if (!box) return Promise.resolve(false);
  const middle: [number, number] = [box.x + box.width / 2, sheet.height - box.y - box.height / 2];
  return rearrange(opened, sheet, (l) => (l[0] === label ? turned(l, middle) : l));
}
