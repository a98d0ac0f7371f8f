/** What figures of a project are to keep to: at least or at most so much; kept in this browser. */
import { createStore } from "zustand";
import type { Figure } from "../api/client";
import { keep, kept } from "../ui/kept";

export interface Target {
  least?: number;
  most?: number;
}

const key = (project: string) => `targets of ${project}`;

interface Targets {
  all: Record<string, Target>;
  /** Sets what a figure is to keep to; nothing takes it back. */
  aim: (figure: string, target: Target | null) => void;
}

export const targetsOf = (project: string) =>
  createStore<Targets>((set, get) => ({
    all: kept(key(project), {}),
    aim: (figure, target) => {
      const all = { ...get().all };
      if (target && (target.least !== undefined || target.most !== undefined)) all[figure] = target;
      else delete all[figure];
      keep(key(project), all);
      set({ all });
    },
  }));

/** Whether a figure is not as it is to be; figures that are words, or still to come, are not looked at. */
export function isMissed({ value, pending }: Pick<Figure, "value" | "pending">, target?: Target): boolean {
  if (!target || pending || typeof value !== "number") return false;
  return value < (target.least ?? -Infinity) || value > (target.most ?? Infinity);
}
