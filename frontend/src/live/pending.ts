/** Figures that follow a picture while a hand drags. */
import type { Figure } from "../api/client";

interface Told {
  figures: Figure[];
  complete: boolean;
}

/** What is told of a clause: where more of it is to come, the figures of `before` stand in their places until then,
 * lest lines come and go. */
export function withPending<T extends Told>(before: Told | undefined, now: T): T {
  if (now.complete || !before) return now;
  const fresh = new Map(now.figures.map((f) => [f.name, f]));
  const known = new Set(before.figures.map((f) => f.name));
  return {
    ...now,
    figures: [
      ...before.figures.map((f) => fresh.get(f.name) ?? { ...f, pending: true }),
      ...now.figures.filter((f) => !known.has(f.name)),
    ],
  };
}
