/** Views of a project that one comes back to: from where, what is shown and how it is coloured; kept in this browser. */
import type { Opened } from "../state/opened";
import type { ColourBy, Layer, Look } from "../state/view";
import { keep, kept } from "../ui/kept";
import type { Stand } from "./viewport";

export interface SavedView {
  name: string;
  stand: Stand;
  look: Look;
  shown: Record<Layer, boolean>;
  colourBy: ColourBy;
  cut: { axis: "x" | "y" | "z"; share: number } | null;
}

const key = (project: string) => `views of ${project}`;

export const savedViews = (project: string): SavedView[] => kept(key(project), []);

export const keepViews = (project: string, views: SavedView[]) => keep(key(project), views);

/** The first name of this kind that is free. */
export function freeName(views: readonly { name: string }[]): string {
  const taken = new Set(views.map((v) => v.name));
  for (let n = 1; ; n++) if (!taken.has(`View ${n}`)) return `View ${n}`;
}

export function presentView({ viewing, viewport }: Opened, name: string): SavedView {
  const { look, shown, colourBy, cut } = viewing.getState();
  return { name, stand: viewport.stand, look, shown, colourBy, cut };
}

export function goToView({ viewing, viewport }: Opened, { stand, look, shown, colourBy, cut }: SavedView) {
  viewing.getState().set({ look, shown, colourBy, cut });
  // What is drawn anew is fitted first.
  requestAnimationFrame(() => requestAnimationFrame(() => viewport.standAt(stand)));
}
