/** Distances that were measured and stay in the view until they are cleared; kept in this browser by project. */
import { create } from "zustand";

export type Place = [number, number, number];

export interface Dimension {
  from: Place;
  to: Place;
}

const key = (project: string) => `dimensions in ${project}`;

function kept(project: string): Dimension[] {
  try {
    return JSON.parse(localStorage.getItem(key(project)) ?? "[]") as Dimension[];
  } catch {
    return [];
  }
}

interface Dimensions {
  project: string;
  /** The place from which one is being measured. */
  begun: Place | null;
  all: Dimension[];
  open: (project: string) => void;
  /** Takes the next place: the first of a distance, or the second. */
  take: (place: Place) => void;
  letGo: () => void;
  clear: () => void;
}

export const useDimensions = create<Dimensions>((set, get) => {
  const keep = (all: Dimension[]) => {
    localStorage.setItem(key(get().project), JSON.stringify(all));
    set({ all, begun: null });
  };
  return {
    project: "",
    begun: null,
    all: [],
    open: (project) => set({ project, begun: null, all: kept(project) }),
    take: (place) => {
      const { begun, all } = get();
      if (begun) keep([...all, { from: begun, to: place }]);
      else set({ begun: place });
    },
    letGo: () => set({ begun: null }),
    clear: () => keep([]),
  };
});
