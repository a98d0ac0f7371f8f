/** Distances that were measured and stay in the view until they are cleared; kept in this browser by project. */
import { createStore } from "zustand";
import { keep, kept } from "../ui/kept";

export type Place = [number, number, number];

export interface Dimension {
  from: Place;
  to: Place;
}

const key = (project: string) => `dimensions in ${project}`;

interface Dimensions {
  /** The place from which one is being measured. */
  begun: Place | null;
  all: Dimension[];
  /** Takes the next place: the first of a distance, or the second. */
  take: (place: Place) => void;
  letGo: () => void;
  clear: () => void;
}

export const dimensionsOf = (project: string) =>
  createStore<Dimensions>((set, get) => {
    const change = (all: Dimension[]) => {
      keep(key(project), all);
      set({ all, begun: null });
    };
    return {
      begun: null,
      all: kept(key(project), []),
      take: (place) => {
        const { begun, all } = get();
        if (begun) change([...all, { from: begun, to: place }]);
        else set({ begun: place });
      },
      letGo: () => set({ begun: null }),
      clear: () => change([]),
    };
  });
