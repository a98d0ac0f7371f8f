import { useEffect, useMemo, useState } from "react";
import type { ClauseEntry, ClauseKind } from "../api/client";
import { useClauseKinds } from "../api/kinds";
import { useLive, useOpened, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { chosen } from "../workbench/placing";
import { StatementAside } from "../workbench/StatementAside";
import { valueIn } from "../workbench/values/values";
import { type Backdrop, backdropOf } from "./backdrop";
import { CageBoard } from "./CageBoard";
import { CurveBoard } from "./CurveBoard";
import type { DrawnCurve, Point, Sight } from "./sheet";
import { UnderlayBoard } from "./UnderlayBoard";

const DRAWN = ["draw", "cage", "underlay"];

/** The drawing sheet: curves, cages in plan, and pictures to trace over. */
export function TraceScreen() {
  const { viewing, channel, viewport } = useOpened();
  const kinds = useClauseKinds();
  const clauses = useLive((s) => s.statement?.clauses) ?? [];
  const active = useView((s) => s.active);
  const drawn = clauses.filter((c) => DRAWN.includes(c.kind) && !c.off);
  const entry = drawn.find((c) => c.id === active) ?? drawn[0];
  // Handles in the other view follow what is drawn here.
  useEffect(() => {
    if (entry && entry.id !== active && !clauses.some((c) => c.id === active))
      viewing.getState().set({ active: entry.id });
  }, [entry, active, clauses, viewing]);
  const add = (name: string, at: number) => {
    const kind = kinds.find((k) => k.kind === name);
    if (!kind) return;
    const edit = chosen(kind, clauses, at, viewport);
    void channel.edit(edit).then((done) => done && viewing.getState().set({ active: edit.clause.id }));
  };
  return (
    <main className="grid min-h-0 grid-cols-[23.5rem_minmax(0,1fr)_15.5rem]">
      <StatementAside />
      {entry && kinds.length ? (
        <Board key={entry.id} entry={entry} kinds={kinds} />
      ) : (
        <div className="col-span-2 flex flex-col items-center justify-center gap-4 bg-ground">
          <p className="font-serif text-lg text-soft">There is nothing to draw on yet.</p>
          <div className="flex gap-2">
            <Button onClick={() => add("draw", 0)}>Draw curves</Button>
            <Button onClick={() => add("underlay", 0)}>Lay a picture under</Button>
            <Button onClick={() => add("cage", 0)}>Draw a cage</Button>
          </div>
        </div>
      )}
    </main>
  );
}

function Board({ entry, kinds }: { entry: ClauseEntry; kinds: ClauseKind[] }) {
  const { live } = useOpened();
  const outcomes = useLive((s) => s.outcomes);
  const statement = useLive((s) => s.statement);
  const [sight, setSight] = useState<Sight | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: outcomes and statement are what the backdrop hangs on
  const backdrop = useMemo(
    () => backdropOf(live.getState(), entry, kinds),
    [entry, kinds, outcomes, statement],
  );
  const specs = Object.fromEntries(
    (kinds.find((k) => k.kind === entry.kind)?.values ?? []).map((v) => [v.name, v]),
  );
  const value = (name: string) => valueIn(entry, specs[name]!);
  const points = pointsOf(entry, specs, backdrop);
  const shown = sight ?? fitted(points);
  if (entry.kind === "underlay")
    return (
      <UnderlayBoard
        entry={entry}
        outcome={outcomes[entry.id]}
        file={value("file") as string[]}
        marks={{ corners: value("corners") as Point[], known: value("known") as Point[] }}
      />
    );
  if (entry.kind === "cage")
    return (
      <CageBoard
        entry={entry}
        cage={value("cage") as number[][][]}
        backdrop={backdrop}
        sight={shown}
        onSight={setSight}
      />
    );
  return (
    <CurveBoard
      entry={entry}
      curves={value("curves") as DrawnCurve[]}
      backdrop={backdrop}
      sight={shown}
      onSight={setSight}
    />
  );
}

function pointsOf(
  entry: ClauseEntry,
  specs: Record<string, ClauseKind["values"][number]>,
  backdrop: Backdrop,
): Point[] {
  const under = backdrop.pictures.flatMap((p) => [p.low, p.high]);
  if (entry.kind === "draw")
    return [...(valueIn(entry, specs.curves!) as DrawnCurve[]).flatMap(([, p]) => p), ...under];
  if (entry.kind === "cage")
    return [...(valueIn(entry, specs.cage!) as number[][][])[0]!.map((v): Point => [v[0]!, v[1]!]), ...under];
  return under;
}

/** A sight of the whole drawing with some room around it. */
function fitted(points: Point[]): Sight {
  const numbers = points.filter((p) => p.every((c) => typeof c === "number"));
  if (!numbers.length) return { x: 0, y: 0, metresPerPixel: 0.03 };
  const [xs, ys] = [numbers.map((p) => p[0]), numbers.map((p) => p[1])];
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const size = Math.max((x1 - x0) / 480, (y1 - y0) / 520, 0.004);
  return { x: (x0 + x1) / 2, y: (y0 + y1) / 2, metresPerPixel: size };
}
