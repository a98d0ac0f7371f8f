import { useState } from "react";
import type { ValueSpec } from "../../api/client";
import { Button } from "../../ui/Button";
import { inFeet, useLengths } from "../../ui/lengths";
import { CoordinateField } from "./CoordinateField";
import { ListPopover } from "./ListPopover";
import { type Coordinate, PointsTable } from "./PlacesValue";

export type Profiles = Coordinate[][][];

const number = (c: Coordinate | undefined) => (typeof c === "number" ? c : 0);
const moved = (points: Coordinate[][], by: number[]) =>
  points.map((p) => p.map((c, k) => (typeof c === "number" ? Number((c + (by[k] ?? 0)).toFixed(4)) : c)));

/** Half way from profile `i` to the next, or as far past the last as that is from the one before. */
function step(profiles: Profiles, i: number): number[] {
  const middle = (p: Coordinate[][]) =>
    [0, 1, 2].map((k) => p.reduce((a, q) => a + number(q[k]), 0) / p.length);
  const [from, to] = i + 1 < profiles.length ? [i, i + 1] : [i - 1, i];
  const [a, b] = [middle(profiles[Math.max(from, 0)]!), middle(profiles[to]!)];
  const share = i + 1 < profiles.length ? 0.5 : 1;
  return profiles.length > 1 ? a.map((x, k) => (b[k]! - x) * share) : [0, 3, 0];
}

/** The profiles of a clause: their points in exact numbers; to add, copy, move along and remove them. */
export function ProfilesValue({
  spec,
  clause,
  value,
  wrong,
  onCommit,
}: {
  spec: ValueSpec;
  clause: string;
  value: Profiles;
  wrong: boolean;
  onCommit: (v: Profiles) => void;
}) {
  const isFeet = inFeet(
    "m",
    useLengths((s) => s.system),
  );
  const [at, setAt] = useState(0);
  const [along, setAlong] = useState<Coordinate>(1);
  const i = Math.min(at, value.length - 1);
  const points = value[i] ?? [];
  const replace = (next: Coordinate[][]) => onCommit(value.map((p, k) => (k === i ? next : p)));
  const insert = (profile: Coordinate[][], where: number) => {
    onCommit([...value.slice(0, where), profile, ...value.slice(where)]);
    setAt(where);
  };
  const addPoint = (k: number) => {
    const [a, b] = k + 1 < points.length ? [points[k]!, points[k + 1]!] : [points[k - 1]!, points[k]!];
    const share = k + 1 < points.length ? 0.5 : 2;
    const between = a.map((c, j) => Number((number(c) + (number(b[j]) - number(c)) * share).toFixed(3)));
    replace([...points.slice(0, k + 1), between, ...points.slice(k + 1)]);
  };
  const moveAlong = () => {
    const direction = step(value, i);
    const size = Math.hypot(...direction) || 1;
    replace(
      moved(
        points,
        direction.map((d) => (d / size) * number(along)),
      ),
    );
  };
  return (
    <ListPopover spec={spec} clause={clause} wrong={wrong} words={`${value.length} profiles`} wide>
      <div className="mb-2 flex flex-wrap items-center gap-1" role="group" aria-label="Profiles">
        <span className="mr-1 text-soft">Profile</span>
        {value.map((_, k) => (
          <button
            key={k}
            type="button"
            aria-pressed={k === i}
            onClick={() => setAt(k)}
            className={`min-w-6 rounded-sm px-1.5 ${k === i ? "bg-plum text-leaf" : "hover:bg-plum-pale"}`}
          >
            {k + 1}
          </button>
        ))}
      </div>
      <PointsTable
        label="Point"
        of={`Profile ${i + 1} point`}
        points={points}
        least={2}
        onCommit={replace}
        onAdd={addPoint}
      />
      <div className="mt-2 flex flex-wrap items-center gap-1 border-t border-rule pt-2">
        <Button onClick={() => insert(moved(points, step(value, i)), i + 1)}>
          {i + 1 < value.length ? "Copy half way" : "Copy beyond"}
        </Button>
        <Button onClick={() => onCommit(value.filter((_, k) => k !== i))} disabled={value.length <= 2}>
          Remove profile
        </Button>
        <span className="ml-auto inline-flex items-baseline gap-1">
          <Button onClick={moveAlong}>Move along by</Button>
          <CoordinateField label="Distance to move along" value={along} onCommit={setAlong} />
          {!isFeet && "m"}
        </span>
      </div>
    </ListPopover>
  );
}
