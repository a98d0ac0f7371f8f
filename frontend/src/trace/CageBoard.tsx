import { type PointerEvent, useState } from "react";
import type { ClauseEntry, Edit } from "../api/client";
import { useOpened } from "../state/opened";
import { figureText } from "../ui/text";
import { type Backdrop, BackdropView, path } from "./backdrop";
import { ToolButton } from "./CurveBoard";
import { Sheet } from "./Sheet";
import { catchPoint, distance, drawTo, gridStep, type Point, type Sight } from "./sheet";

type Cage = number[][][];
type Reshape = Extract<Edit, { op: "cage" }>;

/** What can be done to a cage: on which things it works and what to say of it. */
const WORKS: {
  do: Reshape["do"] | "move";
  title: string;
  of: "points" | "edges" | "faces";
  many: number;
  hint: string;
}[] = [
  { do: "move", title: "Move points", of: "points", many: 1, hint: "Drag points; Alt lets go of the grid." },
  {
    do: "split",
    title: "Split",
    of: "edges",
    many: 1,
    hint: "Click an edge: the strip of faces across it is split.",
  },
  {
    do: "split face",
    title: "Halve a face",
    of: "faces",
    many: 1,
    hint: "Click a quad: it becomes two triangles.",
  },
  {
    do: "draw out",
    title: "Draw out an edge",
    of: "edges",
    many: 1,
    hint: "Press a border edge and drag: a face grows from it.",
  },
  {
    do: "bridge",
    title: "Bridge",
    of: "edges",
    many: 2,
    hint: "Click two border edges: a face is put between them.",
  },
  { do: "weld", title: "Weld", of: "points", many: 2, hint: "Click two points: they become one." },
  { do: "delete", title: "Delete a face", of: "faces", many: 1, hint: "Click a face to take it away." },
  {
    do: "crease",
    title: "Crease",
    of: "edges",
    many: 1,
    hint: "Click an edge to make it sharp, or smooth again.",
  },
  {
    do: "corner",
    title: "Corner",
    of: "points",
    many: 1,
    hint: "Click a point to make it a sharp corner, or smooth again.",
  },
  {
    do: "face",
    title: "New face",
    of: "points",
    many: 1,
    hint: "Click a free place: a square face is put there.",
  },
];
const TOUCH = 9;

interface Held {
  kind: "point" | "edge";
  index: number;
  from: Point;
  at: Point;
}

/** A cage drawn in plan: its points dragged, its faces split, drawn out, bridged, welded and deleted. */
export function CageBoard({
  entry,
  cage,
  backdrop,
  sight,
  onSight,
}: {
  entry: ClauseEntry;
  cage: Cage;
  backdrop: Backdrop;
  sight: Sight;
  onSight: (s: Sight) => void;
}) {
  const { channel } = useOpened();
  const [work, setWork] = useState(WORKS[0]!);
  const [chosen, setChosen] = useState<number[]>([]);
  const [held, setHeld] = useState<Held | null>(null);
  const [vertices = [], faces = [], creases = [], corners = []] = cage;
  const points = vertices.map((v): Point => [v[0] ?? 0, v[1] ?? 0]);
  const edges = edgesOf(faces);
  const sharp = new Set(creases.map((e) => `${Math.min(e[0]!, e[1]!)}-${Math.max(e[0]!, e[1]!)}`));
  const corner = new Set(corners.map((c) => c[0]));
  const reshape = (change: Partial<Reshape>) =>
    void channel.edit({
      op: "cage",
      clause: entry.id,
      name: "cage",
      do: work.do as Reshape["do"],
      edges: [],
      faces: [],
      points: [],
      by: [0, 0, 0],
      share: 0.5,
      ...change,
    } as Reshape);
  const shownPoints =
    held?.kind === "point" ? points.map((p, k) => (k === held.index ? held.at : p)) : points;
  const moved = (h: Held): Cage => [
    vertices.map((v, k) => (k === h.index ? [h.at[0], h.at[1], v[2] ?? 0] : v)),
    faces,
    creases,
    corners,
  ];
  const set = (value: Cage) => ({ op: "set" as const, clause: entry.id, name: "cage", value });
  const nearest = (at: Point): number | null => {
    const reach = TOUCH * sight.metresPerPixel;
    const middle = (list: number[]): Point => [
      list.reduce((a, v) => a + points[v]![0] / list.length, 0),
      list.reduce((a, v) => a + points[v]![1] / list.length, 0),
    ];
    if (work.of === "faces") {
      const found = faces.findIndex((f) =>
        inside(
          at,
          f.map((v) => points[v]!),
        ),
      );
      return found < 0 ? null : found;
    }
    const gap =
      work.of === "points"
        ? points.map((p) => distance(p, at))
        : edges.map(
            ([a, b]) => fromSegment(at, points[a]!, points[b]!) + 0.001 * distance(middle([a, b]), at),
          );
    const best = gap.indexOf(Math.min(...gap));
    return best >= 0 && gap[best]! < reach ? best : null;
  };
  const press = (at: Point) => {
    const found = nearest(at);
    if (work.do === "face") {
      const step = gridStep(sight);
      const [x, y] = at.map((c) => Math.round(c / step) * step) as Point;
      const width = Math.min(Math.max(120 * sight.metresPerPixel, 0.2), 7.8);
      reshape({ by: [x, y, 0], share: Math.min(Math.max(width / 8, 0.02), 0.98) });
      return true;
    }
    if (found === null) {
      setChosen([]);
      return false;
    }
    if (work.do === "move") {
      setHeld({ kind: "point", index: found, from: points[found]!, at: points[found]! });
      return true;
    }
    if (work.do === "draw out") {
      setHeld({ kind: "edge", index: found, from: at, at });
      return true;
    }
    const next = [...chosen, found];
    if (next.length < work.many) {
      setChosen(next);
      return true;
    }
    setChosen([]);
    reshape({
      edges: work.of === "edges" ? next.map((e) => edges[e]!) : [],
      faces: work.of === "faces" ? next : [],
      points: work.of === "points" ? next : [],
    });
    return true;
  };
  const movedTo = (held: Held, at: Point, e: PointerEvent): Held => {
    const others = held.kind === "point" ? points.filter((_, k) => k !== held.index) : points;
    const c = catchPoint(
      at,
      sight,
      held.kind === "point" ? [...others, ...backdrop.points] : [],
      [],
      held.from,
      drawTo(backdrop.pictures.length > 0, e.altKey),
    );
    return { ...held, at: c.at.map((x) => Number(x.toFixed(4))) as Point };
  };
  const move = (at: Point, e: PointerEvent) => {
    if (!held) return;
    const next = movedTo(held, at, e);
    setHeld(next);
    if (held.kind === "point") channel.preview(set(moved(next)));
  };
  // Where the pointer is let go counts, which may be further on than the last move that was shown.
  const lift = (at: Point, e: PointerEvent) => {
    if (!held) return;
    const last = movedTo(held, at, e);
    const far = distance(held.from, at) > TOUCH * sight.metresPerPixel;
    if (held.kind === "point" && far) void channel.edit(set(moved(last)));
    else if (held.kind === "point") channel.settle();
    else if (far)
      reshape({
        edges: [edges[held.index]!],
        by: [last.at[0] - held.from[0], last.at[1] - held.from[1], 0],
      });
    setHeld(null);
  };
  const drawnOut = held?.kind === "edge" ? edges[held.index] : undefined;
  return (
    <>
      <Sheet
        label="The cage in plan"
        sight={sight}
        onSight={onSight}
        crosshair={work.do !== "move" || Boolean(held)}
        onPress={press}
        onMove={move}
        onLift={lift}
      >
        {({ px }) => (
          <>
            <BackdropView backdrop={backdrop} px={px} />
            {faces.map((f, k) => (
              <path
                key={k}
                data-face={k}
                d={`${path(
                  f.map((v) => shownPoints[v] ?? [0, 0]),
                  px,
                )}Z`}
                fill={work.of === "faces" && chosen.includes(k) ? "#c79bb5" : "#d9d3bf"}
                fillOpacity={0.55}
              />
            ))}
            {edges.map(([a, b], k) => (
              <path
                key={`${a}-${b}`}
                data-edge={`${a}-${b}`}
                d={path([shownPoints[a]!, shownPoints[b]!], px)}
                stroke={work.of === "edges" && chosen.includes(k) ? "#7a2e62" : "#262f5c"}
                strokeWidth={sharp.has(`${a}-${b}`) ? 3.6 : 1.4}
              />
            ))}
            {drawnOut && held && (
              <path
                d={path(
                  drawnOut.map(
                    (v): Point => [
                      points[v]![0] + held.at[0] - held.from[0],
                      points[v]![1] + held.at[1] - held.from[1],
                    ],
                  ),
                  px,
                )}
                stroke="#7a2e62"
                strokeWidth={2}
                strokeDasharray="6 3"
              />
            )}
            {shownPoints.map((p, k) => {
              const [x, y] = px(p);
              return (
                <g key={k}>
                  <rect
                    data-point={k}
                    x={x - 4.5}
                    y={y - 4.5}
                    width={9}
                    height={9}
                    rx={corner.has(k) ? 0 : 4.5}
                    className="cursor-move"
                    fill={work.of === "points" && chosen.includes(k) ? "#7a2e62" : "#fdfaf2"}
                    stroke="#7a2e62"
                    strokeWidth={1.8}
                  />
                  <text x={x + 8} y={y - 6} className="fill-soft font-mono text-[12px]">
                    {figureText(vertices[k]?.[2] ?? 0, "m", 1)}
                  </text>
                </g>
              );
            })}
          </>
        )}
      </Sheet>
      <aside className="overflow-y-auto border-l border-rule px-3 py-3" aria-label="Cage">
        <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Cage</h2>
        <div className="flex flex-wrap gap-1" role="group" aria-label="What to do">
          {WORKS.map((w) => (
            <ToolButton
              key={w.do}
              title={w.title}
              on={w.do === work.do}
              onClick={() => {
                setWork(w);
                setChosen([]);
              }}
            />
          ))}
        </div>
        <p className="mt-2 text-[13px] text-soft">
          {work.hint} The numbers are heights in metres; lift points in the Workbench with Alt, or in an
          elevation.
        </p>
        <p className="mt-3">
          {points.length} points, {edges.length} edges, {faces.length} faces
        </p>
      </aside>
    </>
  );
}

function edgesOf(faces: number[][]): [number, number][] {
  const out = new Map<string, [number, number]>();
  for (const f of faces)
    f.forEach((v, k) => {
      const w = f[(k + 1) % f.length]!;
      const e: [number, number] = v < w ? [v, w] : [w, v];
      out.set(e.join("-"), e);
    });
  return [...out.values()];
}

function fromSegment(p: Point, a: Point, b: Point): number {
  const d: Point = [b[0] - a[0], b[1] - a[1]];
  const t = ((p[0] - a[0]) * d[0] + (p[1] - a[1]) * d[1]) / Math.max(d[0] ** 2 + d[1] ** 2, 1e-12);
  const c = Math.min(1, Math.max(0, t));
  return distance(p, [a[0] + c * d[0], a[1] + c * d[1]]);
}

function inside(p: Point, ring: Point[]): boolean {
  let odd = false;
  ring.forEach((a, k) => {
    const b = ring[(k + 1) % ring.length]!;
    if (a[1] > p[1] !== b[1] > p[1] && p[0] < ((b[0] - a[0]) * (p[1] - a[1])) / (b[1] - a[1]) + a[0])
      odd = !odd;
  });
  return odd;
}
