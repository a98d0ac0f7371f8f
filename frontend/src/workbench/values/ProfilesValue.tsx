import { Popover } from "radix-ui";
import { useState } from "react";
import type { ValueSpec } from "../../api/client";
import { useView } from "../../state/view";
import { Button } from "../../ui/Button";
import { CoordinateField } from "./CoordinateField";

type Coordinate = number | string;
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
    <Popover.Root onOpenChange={(open) => open && useView.getState().set({ active: clause })}>
      <Popover.Trigger asChild>
        <button
          type="button"
          className={`live ${wrong ? "!text-brick" : ""}`}
          data-value={spec.name}
          title={spec.hint}
        >
          {value.length} profiles
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="floating w-[25rem] p-3"
          align="start"
          sideOffset={4}
          collisionPadding={8}
          onOpenAutoFocus={(e) => e.preventDefault()}
        >
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
          <div className="max-h-60 overflow-auto">
            <table className="w-full text-sm">
              <thead className="text-xs text-soft">
                <tr>
                  <th className="text-left font-normal">Point</th>
                  <th className="font-normal">x in m</th>
                  <th className="font-normal">y in m</th>
                  <th className="font-normal">z in m</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {points.map((p, k) => (
                  <tr key={k}>
                    <td>{k + 1}</td>
                    {[0, 1, 2].map((axis) => (
                      <td key={axis} className="p-0.5 text-center">
                        <CoordinateField
                          label={`Profile ${i + 1} point ${k + 1} ${"xyz"[axis]}`}
                          value={p[axis] ?? 0}
                          onCommit={(v) =>
                            replace(
                              points.map((q, j) => (j === k ? q.map((c, a) => (a === axis ? v : c)) : q)),
                            )
                          }
                        />
                      </td>
                    ))}
                    <td className="text-right whitespace-nowrap">
                      <Button
                        tone="quiet"
                        className="!px-1"
                        aria-label={`Add a point after point ${k + 1}`}
                        onClick={() => addPoint(k)}
                        disabled={points.length < 2}
                      >
                        add
                      </Button>
                      <Button
                        tone="quiet"
                        className="!px-1"
                        aria-label={`Remove point ${k + 1}`}
                        onClick={() => replace(points.filter((_, j) => j !== k))}
                        disabled={points.length <= 2}
                      >
                        remove
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <div className="mt-2 flex flex-wrap items-center gap-1 border-t border-rule pt-2">
            <Button onClick={() => insert(moved(points, step(value, i)), i + 1)}>
              {i + 1 < value.length ? "Copy half way" : "Copy beyond"}
            </Button>
            <Button onClick={() => onCommit(value.filter((_, k) => k !== i))} disabled={value.length <= 2}>
              Remove profile
            </Button>
            <span className="ml-auto inline-flex items-baseline gap-1">
              <Button onClick={moveAlong}>Move along by</Button>
              <CoordinateField label="Distance to move along" value={along} onCommit={setAlong} /> m
            </span>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
