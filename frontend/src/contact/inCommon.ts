import type { Figure } from "../api/client";

/** Names of the headline figures that all pictures have, so that they can be compared. */
export function inCommon(settings: { figures?: Figure[] }[]): string[] {
  const made = settings.flatMap((s) => (s.figures ? [s.figures.filter((f) => f.headline)] : []));
  const [first = [], ...others] = made;
  return first.map((f) => f.name).filter((n) => others.every((o) => o.some((f) => f.name === n)));
}
