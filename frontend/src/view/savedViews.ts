/** Views of a project that one comes back to: from where, what is shown and how it is coloured. */
import type { Schemas } from "../api/client";
import type { Opened } from "../state/opened";

export type SavedView = Schemas["KeptView"];

/** The first name of this kind that is free. */
export function freeName(views: readonly { name: string }[]): string {
  const taken = new Set(views.map((v) => v.name));
  for (let n = 1; ; n++) if (!taken.has(`View ${n}`)) return `View ${n}`;
}

export function presentView({ viewing, viewport }: Opened, name: string): SavedView {
  const { look, shown, colourBy, cut } = viewing.getState();
  return { name, stand: viewport.stand, look, shown, colour_by: colourBy, cut };
}

export function goToView({ viewing, viewport }: Opened, { stand, look, shown, colour_by, cut }: SavedView) {
  viewing.getState().set({ look, shown, colourBy: colour_by, cut: cut ?? null });
  // What is drawn anew is fitted first.
  requestAnimationFrame(() => requestAnimationFrame(() => viewport.standAt(stand)));
}
