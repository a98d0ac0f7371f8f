import type { ValueSpec } from "../../api/client";
import { Button } from "../../ui/Button";
import { inFeet, useLengths } from "../../ui/lengths";
import { CoordinateField } from "./CoordinateField";
import { ListPopover } from "./ListPopover";

export type Coordinate = number | string;

const AXES = ["x", "y", "z"];

/** A table of points with exact coordinates, to add to, change and shorten. */
export function PointsTable({
  label,
  points,
  least,
  axes = AXES,
  of = label,
  onCommit,
  onAdd,
}: {
  label: string;
  /** What the points are called where they are read out one by one. */
  of?: string;
  points: Coordinate[][];
  least: number;
  axes?: string[];
  onCommit: (points: Coordinate[][]) => void;
  /** Adds a point after one of them; without it there is no button for that. */
  onAdd?: (after: number) => void;
}) {
  const isFeet = inFeet(
    "m",
    useLengths((s) => s.system),
  );
  return (
    <div className="max-h-60 overflow-auto">
      <table className="w-full text-sm">
        <thead className="text-xs text-soft">
          <tr>
            <th className="text-left font-normal">{label}</th>
            {axes.map((a) => (
              <th key={a} className="font-normal">
                {isFeet ? a : `${a} in m`}
              </th>
            ))}
            <td />
          </tr>
        </thead>
        <tbody>
          {points.map((p, k) => (
            <tr key={k}>
              <td>{k + 1}</td>
              {axes.map((a, axis) => (
                <td key={a} className="p-0.5 text-center">
                  <CoordinateField
                    label={`${of} ${k + 1} ${a}`}
                    value={p[axis] ?? 0}
                    onCommit={(v) =>
                      onCommit(points.map((q, j) => (j === k ? q.map((c, i) => (i === axis ? v : c)) : q)))
                    }
                  />
                </td>
              ))}
              <td className="text-right whitespace-nowrap">
                {onAdd && (
                  <Button
                    tone="quiet"
                    className="!px-1"
                    aria-label={`Add a point after ${label.toLowerCase()} ${k + 1}`}
                    disabled={points.length < 2}
                    onClick={() => onAdd(k)}
                  >
                    add
                  </Button>
                )}
                <Button
                  tone="quiet"
                  className="!px-1"
                  aria-label={`Remove ${label.toLowerCase()} ${k + 1}`}
                  disabled={points.length <= least}
                  onClick={() => onCommit(points.filter((_, j) => j !== k))}
                >
                  remove
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {points.length === 0 && <p className="py-1 text-soft">None yet.</p>}
    </div>
  );
}

/** A list of places: their exact coordinates; to add and remove them. They are dragged in the view. */
export function PlacesValue({
  spec,
  clause,
  value,
  wrong,
  onCommit,
}: {
  spec: ValueSpec;
  clause: string;
  value: Coordinate[][];
  wrong: boolean;
  onCommit: (v: Coordinate[][]) => void;
}) {
  const add = () => {
    const last = value.at(-1) ?? [0, 0, 0];
    onCommit([...value, last.map((c, axis) => (typeof c === "number" && axis === 0 ? c + 2 : c))]);
  };
  return (
    <ListPopover
      spec={spec}
      clause={clause}
      wrong={wrong}
      words={`${value.length} ${value.length === 1 ? "place" : "places"}`}
    >
      <PointsTable label="Place" points={value} least={0} onCommit={onCommit} />
      <div className="mt-2 flex items-center gap-2 border-t border-rule pt-2">
        <Button onClick={add}>Add a place</Button>
        <span className="text-xs text-soft">{spec.hint}</span>
      </div>
    </ListPopover>
  );
}
