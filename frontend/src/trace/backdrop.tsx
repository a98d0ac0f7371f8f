import { Vector3 } from "three";
import type { ClauseEntry, ClauseKind } from "../api/client";
import type { Live } from "../live/live";
import { aid } from "../view/handleKinds";
import { at } from "../view/layers";
import { valueIn } from "../workbench/values/values";
import type { Point } from "./sheet";

/** What lies under a drawing: pictures, and the curves and outlines of other clauses seen square to its plane. */
export interface Backdrop {
  pictures: { src: string; low: Point; high: Point; opacity: number }[];
  lines: { points: Point[]; own: boolean }[];
  /** Points of other curves that a drawing is caught by. */
  points: Point[];
  /** What its two directions are called. */
  axes: [string, string];
}

interface Plane {
  origin: Vector3;
  x: Vector3;
  y: Vector3;
}

const PLAN: Plane = { origin: new Vector3(), x: new Vector3(1, 0, 0), y: new Vector3(0, 1, 0) };

/** The plane of a clause that is drawn: the one the server says, or the plan. */
export function planeOf(live: Live, entry: ClauseEntry): Plane {
  const shown = live.geometry.get(live.outcomes[entry.id]?.key ?? "");
  const [origin, x, y] = aid(shown, "plane");
  return origin && x && y ? { origin, x, y } : PLAN;
}

/** The axis of the model that a direction runs along; none where it is skew. */
export function axisAlong(direction: Vector3): string | null {
  const axes = ["x", "y", "z"] as const;
  return axes.find((axis) => Math.abs(direction[axis]) > 1 - 1e-6) ?? null;
}

export function backdropOf(live: Live, entry: ClauseEntry, kinds: ClauseKind[]): Backdrop {
  const plane = planeOf(live, entry);
  const flat = (p: Vector3): Point => {
    const d = p.clone().sub(plane.origin);
    return [d.dot(plane.x), d.dot(plane.y)];
  };
  const axes: [string, string] = [axisAlong(plane.x) ?? "along", axisAlong(plane.y) ?? "up"];
  const out: Backdrop = { pictures: [], lines: [], points: [], axes };
  const normal = plane.x.clone().cross(plane.y);
  for (const other of live.statement?.clauses ?? []) {
    const outcome = live.outcomes[other.id];
    const shown = live.geometry.get(outcome?.key ?? "");
    if (other.off || !outcome || outcome.status !== "done") continue;
    if (other.kind === "underlay") {
      const picture = underlayOf(live, other, kinds, normal);
      if (picture) out.pictures.push(picture);
    } else if (shown?.of === "Curves") {
      const { positions, counts } = shown.arrays;
      let start = 0;
      for (const n of counts!) {
        const points = Array.from({ length: n }, (_, k) => flat(at(positions!, start + k)));
        out.lines.push({ points, own: other.id === entry.id });
        if (other.id !== entry.id) out.points.push(points[0]!, points.at(-1)!);
        start += n;
      }
    }
  }
  return out;
}

const FACING: Record<string, Vector3> = {
  plan: new Vector3(0, 0, 1),
  front: new Vector3(0, -1, 0),
  side: new Vector3(1, 0, 0),
};

/** Where an underlay's picture lies, if its plane is parallel to the one drawn on. */
function underlayOf(live: Live, entry: ClauseEntry, kinds: ClauseKind[], normal: Vector3) {
  const specs = Object.fromEntries(
    (kinds.find((k) => k.kind === "underlay")?.values ?? []).map((v) => [v.name, v]),
  );
  const value = (name: string) => (specs[name] ? valueIn(entry, specs[name]) : undefined);
  const figures = Object.fromEntries(live.outcomes[entry.id]!.figures.map((f) => [f.name, Number(f.value)]));
  const resolved = live.outcomes[entry.id]!.resolved;
  const number = (name: string) => resolved[name] ?? (Number(value(name)) || 0);
  const facing = FACING[String(value("plane"))];
  if (!facing || Math.abs(facing.dot(normal)) < 0.99) return null;
  const low: Point = [number("across"), number("up")];
  const key = live.outcomes[entry.id]!.key;
  return {
    src: `/api/projects/${live.project}/underlays/${entry.id}.png?${key}`,
    low,
    high: [low[0] + (figures.width ?? 1), low[1] + (figures.height ?? 1)] as Point,
    opacity: number("opacity") / 100,
  };
}

export const path = (points: Point[], px: (p: Point) => Point) =>
  points
    .map(
      (p, k) =>
        `${k ? "L" : "M"}${px(p)
          .map((c) => c.toFixed(1))
          .join(" ")}`,
    )
    .join("");

export function BackdropView({ backdrop, px }: { backdrop: Backdrop; px: (p: Point) => Point }) {
  return (
    <>
      {backdrop.pictures.map((p) => {
        const [x0, y0] = px(p.low);
        const [x1, y1] = px(p.high);
        return (
          <image
            key={p.src}
            href={p.src}
            data-testid="underlay"
            x={x0}
            y={y1}
            width={x1 - x0}
            height={y0 - y1}
            opacity={p.opacity}
            preserveAspectRatio="none"
          />
        );
      })}
      {backdrop.lines.map((l, k) => (
        <path
          key={k}
          d={path(l.points, px)}
          fill="none"
          stroke={l.own ? "#7a2e62" : "#8d9bb5"}
          strokeWidth={l.own ? 2 : 1.2}
          strokeLinejoin="round"
        />
      ))}
    </>
  );
}
