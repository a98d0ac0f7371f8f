/** What the Sheets screen shows: sheets in the order of their numbers, and the parts that lie on them. */

import { useMemo } from "react";
import type { Outcome } from "../api/client";
import type { Shown } from "../live/decode";
import { taken } from "../live/inputs";
import type { Live } from "../live/live";
import { useSchedule } from "../schedules/useSchedule";
import type { Opened } from "../state/opened";
import { item } from "../state/view";

export interface PartRow {
  label: string;
  sheet: number | "";
  area: number;
  cut: number;
  item: string;
}

export function useParts(): PartRow[] {
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
          item: item(t.clause, t.of, index),
        }));
      }),
    [tables],
  );
}

export interface Sheet {
  outcome: Outcome;
  shown: Shown;
  /** Its number among those of its clause, from 0. */
  own: number;
  used: number;
  width: number;
  height: number;
  /** Thickness and material of all that lies on it. */
  grade: string;
  /** Whether anything on it is scored. */
  scored: boolean;
}

/** All sheets: those of each clause after those of the one before. Of parts that are set out twice the last
 * sheets count. */
export function allSheets(live: Live): Sheet[] {
  const done = (live.statement?.clauses ?? []).flatMap((c) => {
    const outcome = live.outcomes[c.id];
    const shown = outcome?.status === "done" && !c.off ? live.geometry.get(outcome.key) : undefined;
    return outcome && shown ? [{ outcome, shown }] : [];
  });
  const lastOf = new Map<string, string>();
  for (const { outcome, shown } of done)
    if (shown.of === "Sheets") for (const id of taken(outcome)) lastOf.set(id, outcome.id);
  const counted = new Set(lastOf.values());
  return done
    .filter((d) => d.shown.of === "Sheets" && counted.has(d.outcome.id))
    .flatMap(({ outcome, shown }) => {
      const { used = [], widths = [], heights = [], grades = [], scored = [] } = shown.meta;
      return used.map((share, k) => ({
        outcome,
        shown,
        own: k,
        used: share,
        width: widths[k] ?? 0,
        height: heights[k] ?? 0,
        grade: grades[k] ?? "",
        scored: scored[k] ?? false,
      }));
    });
}

/** Label, place of its sheet in the order in which sheets are taken, shift (mm), turn (°), whether pinned. */
export type Lie = [string, number, number, number, number, boolean];

/** Where all parts of a sheet's clause lie. */
export function liesOf(sheet: Sheet): Lie[] {
  const { arrays, meta } = sheet.shown;
  const { lie, sheetOfPart, pinned } = arrays;
  return (meta.labels ?? []).flatMap((label, i): Lie[] => {
    const on = sheetOfPart?.[i] ?? -1;
    const slot = meta.slots?.[on];
    if (on < 0 || slot === undefined || !lie) return [];
    const [x, y, turn] = [lie[3 * i]!, lie[3 * i + 1]!, lie[3 * i + 2]!];
    return [[label, slot, x, y, turn, Boolean(pinned?.[i])]];
  });
}

/** What is to be said so that parts lie as `after` has it: where they are, of those that moved alone once it is known of
 * all others, which are asked to stay where they are. */
export function placing(before: Lie[], after: Lie[], kept: unknown): Lie[] {
  const known = new Set((Array.isArray(kept) ? kept : []).map((lie) => lie?.[0]));
  if (!before.every(([label]) => known.has(label))) return after;
  return after.filter((lie, k) => lie.some((value, n) => value !== before[k]![n]));
}

/** Changes where parts lie. */
export async function rearrange({ live, channel }: Opened, sheet: Sheet, change: (lie: Lie) => Lie) {
  const before = liesOf(sheet);
  const clause = sheet.outcome.id;
  const kept = live.getState().statement?.clauses?.find((c) => c.id === clause)?.values?.arrangement;
  const lies = placing(before, before.map(change), kept);
  return !lies.length || channel.edit({ op: "place", clause, name: "arrangement", lies });
}
