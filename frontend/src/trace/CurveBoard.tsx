import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { ClauseEntry } from "../api/client";
import { useOpened } from "../state/opened";
import { Button } from "../ui/Button";
import { figureText, togetherText } from "../ui/text";
import { CoordinateField } from "../workbench/values/CoordinateField";
import { PointsTable } from "../workbench/values/PlacesValue";
import { type Backdrop, BackdropView, path } from "./backdrop";
import { Sheet } from "./Sheet";
import {
  type Caught,
  catchPoint,
  type DrawnCurve,
  distance,
  drawTo,
  type Point,
  type Sight,
  TOOLS,
  tidy,
} from "./sheet";

interface Props {
  entry: ClauseEntry;
  curves: DrawnCurve[];
  backdrop: Backdrop;
  sight: Sight;
  onSight: (s: Sight) => void;
}

const TOUCH = 8;

/** Curves drawn on their plane: new ones by clicks or typed numbers, points of old ones dragged. */
export function CurveBoard({ entry, curves, backdrop, sight, onSight }: Props) {
  const { channel } = useOpened();
  const [tool, setTool] = useState<string | null>(curves.length ? null : (TOOLS[0]?.kind ?? null));
  const [drawing, setDrawing] = useState<Point[]>([]);
  const [caught, setCaught] = useState<Caught | null>(null);
  const [picked, setPicked] = useState<number | null>(curves.length ? 0 : null);
  const [held, setHeld] = useState<{ curve: number; point: number; at: Point } | null>(null);
  const set = (value: DrawnCurve[]) => ({ op: "set" as const, clause: entry.id, name: "curves", value });
  const commit = (value: DrawnCurve[]) => void channel.edit(set(value));
  const spec = TOOLS.find((t) => t.kind === tool);
  const numbers = curves.filter(([, points]) => points.every((p) => p.every((c) => typeof c === "number")));
  const flat = numbers.flatMap(([, points]) => points);
  const middles = numbers.flatMap(([kind, points]) =>
    points.slice(1).map((p, k): Point => {
      const q = points[k]!;
      return kind === "circle" ? p : [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
    }),
  );
  const moved = (h: { curve: number; point: number; at: Point }): DrawnCurve[] =>
    curves.map(([kind, points], c) => [
      kind,
      points.map((p, k) => (c === h.curve && k === h.point ? h.at : p)),
    ]);
  /** Shows the curve as it would be with the places that are drawn so far; back to what there is with too few. */
  const sketch = (points: Point[]) => {
    if (spec && points.length >= spec.least && points.length <= spec.most)
      channel.preview(set([...curves, [spec.kind, points.map(tidy)]]));
    else channel.settle();
  };
  const finish = (points: Point[]) => {
    setDrawing([]);
    if (!spec || points.length < spec.least) return channel.settle();
    commit([...curves, [spec.kind, points.map(tidy)]]);
    setPicked(curves.length);
  };
  const place = (at: Point) => {
    if (!spec) return;
    const last = drawing.at(-1);
    if (last && distance(last, at) < 1e-6) return;
    const points = [...drawing, at];
    if (spec.closed && spec.most > 3 && points.length > spec.least && distance(points[0]!, at) < 1e-6)
      return finish(drawing);
    if (points.length >= spec.most) finish(points);
    else setDrawing(points);
  };
  const traced = backdrop.pictures.length > 0;
  const catchAt = (at: Point, e: PointerEvent, but?: Point) =>
    catchPoint(
      at,
      sight,
      [...flat.filter((p) => p !== but), ...drawing, ...backdrop.points],
      middles,
      drawing.at(-1) ?? null,
      drawTo(traced, e.altKey),
    );
  const press = (at: Point, e: PointerEvent) => {
    // From the first touch on the sheet stays where it is, however large the drawing grows.
    onSight(sight);
    if (spec) {
      place(catchAt(at, e).at);
      return true;
    }
    const reach = TOUCH * sight.metresPerPixel;
    let best: { curve: number; point: number; at: Point } | null = null;
    curves.forEach(([, points], curve) => {
      points.forEach((p, point) => {
        if (distance(p, at) < (best ? distance(best.at, at) : reach)) best = { curve, point, at: p };
      });
    });
    if (best) {
      setHeld(best);
      setPicked((best as { curve: number }).curve);
    }
    return best !== null;
  };
  const move = (at: Point, e: PointerEvent) => {
    if (held) {
      const own = curves[held.curve]?.[1][held.point];
      const c = catchAt(at, e, own);
      setCaught(c);
      const next = { ...held, at: tidy(c.at) };
      setHeld(next);
      channel.preview(set(moved(next)));
    } else if (spec) {
      const c = catchAt(at, e);
      setCaught(c);
      const last = drawing.at(-1);
      if (last && distance(last, c.at) > 1e-6) sketch([...drawing, c.at]);
    }
  };
  // Where the pointer is let go counts, which may be further on than the last move that was shown.
  const lift = (at: Point, e: PointerEvent) => {
    if (!held) return;
    const own = curves[held.curve]?.[1][held.point];
    if (own && distance(own, at) > TOUCH * sight.metresPerPixel)
      commit(moved({ ...held, at: tidy(catchAt(at, e, own).at) }));
    else if (own && distance(own, held.at) > 1e-9) channel.settle();
    setHeld(null);
    setCaught(null);
  };
  const finishing = useRef(() => {});
  finishing.current = () => finish(drawing);
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.target instanceof HTMLInputElement) return;
      if (e.key === "Enter") finishing.current();
      else if (e.key === "Escape") {
        setDrawing((d) => {
          if (!d.length) setTool(null);
          return [];
        });
        channel.settle();
      } else if (e.key === "Backspace") setDrawing((d) => d.slice(0, -1));
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [channel]);
  const shown = held ? moved(held) : curves;
  const next = caught && drawing.length ? [...drawing, caught.at] : drawing;
  return (
    <>
      <Sheet
        label="The drawing"
        sight={sight}
        onSight={onSight}
        crosshair={Boolean(spec) || Boolean(held)}
        onPress={press}
        onMove={move}
        onLift={lift}
        onTwice={() => finish(drawing)}
      >
        {({ px }) => (
          <>
            <BackdropView backdrop={backdrop} px={px} />
            {shown.map(([, points], c) => (
              <g key={c} className={c === picked ? "text-plum" : "text-ink"}>
                <path
                  d={path(points, px)}
                  fill="none"
                  stroke="currentColor"
                  strokeWidth={0.8}
                  strokeDasharray="3 4"
                  opacity={0.6}
                />
                {points.map((p, k) => {
                  const [x, y] = px(p);
                  return (
                    <circle
                      key={k}
                      data-point={`${c}-${k}`}
                      cx={x}
                      cy={y}
                      r={4.5}
                      className="cursor-move fill-leaf"
                      stroke="currentColor"
                      strokeWidth={1.8}
                    />
                  );
                })}
              </g>
            ))}
            {next.length > 0 && (
              <path d={path(next, px)} fill="none" stroke="#7a2e62" strokeWidth={1.4} strokeDasharray="6 3" />
            )}
            {caught && (spec || held) && (
              <g>
                <circle cx={px(caught.at)[0]} cy={px(caught.at)[1]} r={3} fill="#7a2e62" />
                <text
                  x={px(caught.at)[0] + 10}
                  y={px(caught.at)[1] - 10}
                  className="fill-plum font-mono text-[12px]"
                >
                  {togetherText(caught.at, "m", 2, "  ")}
                  {drawing.length > 0 &&
                    `  length ${figureText(distance(drawing.at(-1)!, caught.at), "m", 2)}`}
                  {caught.by && `  (${caught.by})`}
                </text>
              </g>
            )}
          </>
        )}
      </Sheet>
      <aside className="overflow-y-auto border-l border-rule px-3 py-3" aria-label="Drawing">
        <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Draw</h2>
        <div className="flex flex-wrap gap-1" role="group" aria-label="What to draw">
          <ToolButton title="Move points" on={tool === null} onClick={() => setTool(null)} />
          {TOOLS.map((t) => (
            <ToolButton
              key={t.kind}
              title={t.title}
              on={tool === t.kind}
              onClick={() => {
                setTool(t.kind);
                setDrawing([]);
              }}
            />
          ))}
        </div>
        <p className="mt-2 text-[13px] text-soft">
          {spec?.hint ?? "Drag points to move them; drag the ground to move the sheet."} Caught by{" "}
          {traced ? "points, middles and directions" : "points, middles, directions and the grid"}; Alt lets
          go.
        </p>
        {spec && (
          <TypedPoint
            from={drawing.at(-1) ?? null}
            onPlace={place}
            onFinish={drawing.length >= spec.least && spec.most > 3 ? () => finish(drawing) : undefined}
          />
        )}
        <CurveList
          curves={curves}
          axes={backdrop.axes}
          picked={picked}
          onPick={setPicked}
          onCommit={commit}
        />
      </aside>
    </>
  );
}

export function ToolButton({ title, on, onClick }: { title: string; on: boolean; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      className={`rounded-sm border px-2 py-0.5 text-sm ${on ? "border-plum bg-plum-pale text-plum" : "border-rule hover:text-plum"}`}
      onClick={onClick}
    >
      {title}
    </button>
  );
}

/** The next point by its coordinates, or by length and direction from the last one. */
function TypedPoint({
  from,
  onPlace,
  onFinish,
}: {
  from: Point | null;
  onPlace: (p: Point) => void;
  onFinish?: () => void;
}) {
  const [at, setAt] = useState<Point>([0, 0]);
  const [length, setLength] = useState(1);
  const [angle, setAngle] = useState(0);
  const number = (v: number | string) => (typeof v === "number" ? v : Number(v) || 0);
  const turned = (angle * Math.PI) / 180;
  return (
    <div className="mt-2 space-y-1 border-y border-rule py-2 text-sm">
      <div className="flex flex-wrap items-baseline gap-1">
        <CoordinateField label="Next point x" value={at[0]} onCommit={(v) => setAt([number(v), at[1]])} />
        <CoordinateField label="Next point y" value={at[1]} onCommit={(v) => setAt([at[0], number(v)])} />
        <span className="text-soft">m</span>
        <Button className="ml-auto" onClick={() => onPlace(at)}>
          Place point
        </Button>
      </div>
      {from && (
        <div className="flex flex-wrap items-baseline gap-1">
          <CoordinateField label="Length" value={length} onCommit={(v) => setLength(number(v))} />
          <span className="text-soft">m at</span>
          <CoordinateField label="Direction" value={angle} onCommit={(v) => setAngle(number(v))} />
          <span className="text-soft">°</span>
          <Button
            className="ml-auto"
            onClick={() =>
              onPlace([from[0] + length * Math.cos(turned), from[1] + length * Math.sin(turned)])
            }
          >
            Go on
          </Button>
        </div>
      )}
      {onFinish && <Button onClick={onFinish}>Finish</Button>}
    </div>
  );
}

function CurveList({
  curves,
  axes,
  picked,
  onPick,
  onCommit,
}: {
  curves: DrawnCurve[];
  /** What the directions of their plane are called. */
  axes: [string, string];
  picked: number | null;
  onPick: (k: number | null) => void;
  onCommit: (curves: DrawnCurve[]) => void;
}) {
  const curve = picked === null ? undefined : curves[picked];
  const tool = TOOLS.find((t) => t.kind === curve?.[0]);
  return (
    <div className="mt-3">
      <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Curves</h2>
      {curves.length === 0 && <p className="text-soft">Nothing is drawn yet: choose what to draw above.</p>}
      <div className="flex flex-wrap gap-1" role="group" aria-label="Curves">
        {curves.map(([kind], k) => (
          <ToolButton
            key={k}
            title={`${k + 1} ${TOOLS.find((t) => t.kind === kind)?.title.toLowerCase() ?? kind}`}
            on={k === picked}
            onClick={() => onPick(k)}
          />
        ))}
      </div>
      {curve && picked !== null && (
        <div className="mt-2">
          <PointsTable
            label="Point"
            axes={axes}
            points={curve[1]}
            least={tool?.least ?? 2}
            onCommit={(points) =>
              onCommit(curves.map((c, k) => (k === picked ? [c[0], points as Point[]] : c)))
            }
          />
          <Button
            className="mt-2"
            onClick={() => {
              onCommit(curves.filter((_, k) => k !== picked));
              onPick(null);
            }}
          >
            Remove curve
          </Button>
        </div>
      )}
    </div>
  );
}
