/** What the Sheets screen shows: sheets in the order of their numbers, and the parts that lie on them. */
import { useMemo } from "react";
import type { Outcome } from "../api/client";
import type { Shown } from "../live/decode";
import { taken } from "../live/inputs";
import { channel, type Live } from "../live/live";
import { useSchedule } from "../schedules/useSchedule";
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
}

/** All sheets: those of each labelled frame, or of ribs, after those of the one before. */
export function allSheets(live: Live): Sheet[] {
  const done = (live.statement?.clauses ?? []).flatMap((c) => {
    const outcome = live.outcomes[c.id];
    const shown = outcome?.status === "done" && !c.off ? live.geometry.get(outcome.key) : undefined;
    return outcome && shown ? [{ outcome, shown }] : [];
  });
  return done
    .filter((d) => d.shown.of === "Labelled" || d.shown.of === "Ribs")
    .flatMap((source) => {
      const own = done
        .filter((d) => d.shown.of === "Sheets" && taken(d.outcome).includes(source.outcome.id))
        .at(-1);
      const { used = [], widths = [], heights = [], grades = [] } = own?.shown.meta ?? {};
      return used.map((share, k) => ({
        outcome: own!.outcome,
        shown: own!.shown,
        own: k,
        used: share,
        width: widths[k] ?? 0,
        height: heights[k] ?? 0,
        grade: grades[k] ?? "",
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

/** Changes where parts lie; all others are asked to stay where they are. */
export function rearrange(sheet: Sheet, change: (lie: Lie) => Lie) {
  const value = liesOf(sheet).map(change);
  return channel.edit({ op: "set", clause: sheet.outcome.id, name: "arrangement", value });
}
