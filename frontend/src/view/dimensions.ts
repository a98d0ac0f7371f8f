/** Distances that were measured; they stay in the view, and with the project, until they are cleared. */
import { Vector3 } from "three";
import type { Opened } from "../state/opened";
import type { Measure } from "./overlay";

export type Place = [number, number, number];

/** Takes the next place: the first of a distance, or the second, with which it stays. */
export function takePlace({ viewing, margin }: Opened, place: Place) {
  const { begun, set } = viewing.getState();
  if (begun)
    void margin.note({ distances: [...margin.notes.getState().distances, { start: begun, end: place }] });
  set({ begun: begun ? null : place });
}

/** What is written into the view of distances, and of one that was only begun. */
export function measuresOf(
  distances: readonly { start: Place; end: Place }[],
  begun: Place | null,
): Measure[] {
  const whole = distances.map(({ start, end }) => ({
    from: new Vector3(...start),
    to: new Vector3(...end),
  }));
  return begun ? [...whole, { from: new Vector3(...begun), to: null }] : whole;
}
