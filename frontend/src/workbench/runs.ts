import type { ClauseEntry, ClauseKind, Figure, Outcome } from "../api/client";

/** Clauses of one chapter that follow each other, and where each stands in the statement. */
export interface Run {
  key: string;
  chapter: string;
  entries: { entry: ClauseEntry; index: number }[];
}

/** The statement chapter by chapter, as its clauses come; a run keeps its key when clauses come and go. */
export function chapterRuns(
  clauses: readonly ClauseEntry[],
  byKind: Readonly<Record<string, ClauseKind>>,
): Run[] {
  const runs: Run[] = [];
  const times: Record<string, number> = {};
  clauses.forEach((entry, index) => {
    const chapter = byKind[entry.kind]?.chapter ?? "";
    let run = runs.at(-1);
    if (run?.chapter !== chapter) {
      times[chapter] = (times[chapter] ?? 0) + 1;
      run = { key: `${chapter} ${times[chapter]}`, chapter, entries: [] };
      runs.push(run);
    }
    run.entries.push({ entry, index });
  });
  return runs;
}

/** Runs with those clauses alone that speak of all words of a `text`. */
export function runsWith(
  runs: readonly Run[],
  text: string,
  says: (entry: ClauseEntry) => string,
): readonly Run[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.length) return runs;
  const fits = (entry: ClauseEntry) => words.every((word) => says(entry).toLowerCase().includes(word));
  return runs
    .map((run) => ({ ...run, entries: run.entries.filter(({ entry }) => fits(entry)) }))
    .filter((run) => run.entries.length > 0);
}

/** The first headline figures of the last clause of a run that has any. */
export function headlinesOf(run: Run, outcomes: Readonly<Record<string, Outcome>>, most: number): Figure[] {
  const told = run.entries
    .map(({ entry }) => outcomes[entry.id])
    .filter((o): o is Outcome => o?.status === "done")
    .map((o) => o.figures.filter((f) => f.headline))
    .filter((figures) => figures.length > 0);
  return told.at(-1)?.slice(0, most) ?? [];
}

/** How far below the upper edge a chapter may begin and still be the one that is read, in pixels. */
const NEAR_TOP = 40;

/** The chapter that is read: the last that begins at or above the upper edge, or the first; at the end of the statement the
 * last one that is in sight. `tops` are distances from the upper edge. */
export function chapterAt(
  tops: readonly { key: string; top: number }[],
  atEnd: boolean,
  height: number,
): string {
  const begun = tops.filter(({ top }) => top <= (atEnd ? height : NEAR_TOP));
  return (begun.at(-1) ?? tops[0])?.key ?? "";
}
