/** Seven steps through a statement of one's own, from its first shape to what is delivered. */
import { create } from "zustand";
import type { ClauseEntry, Outcome } from "../api/client";
import { keep, kept } from "../ui/kept";

export interface Step {
  title: string;
  how: string;
  /** The kind of clause that does it, where one does. */
  kind?: string;
  /** The screen on which it is done, where it is on one. */
  screen?: string;
  isDone: (state: Stated) => boolean;
}

/** What steps look at: the clauses, what became of them, and the screens that were seen. */
export interface Stated {
  clauses: readonly ClauseEntry[];
  outcomes: Readonly<Record<string, Pick<Outcome, "status" | "gives">>>;
  seen: ReadonlySet<string>;
}

const made = (state: Stated, type: string) =>
  state.clauses.some((c) => {
    const outcome = state.outcomes[c.id];
    return outcome?.status === "done" && outcome.gives === type;
  });

export const STEPS: readonly Step[] = [
  {
    title: "Begin with a shape",
    how: "“Add a clause” opens the guide; a barrel vault is a good roof to begin with. What a clause makes is drawn at once.",
    kind: "barrel",
    isDone: (s) => made(s, "Shape"),
  },
  {
    title: "Change it where it stands",
    how: "Drag a handle in the view, or a number in the sentence sideways; click a number to type it. Undo takes it back.",
    isDone: (s) =>
      s.clauses.some((c) => s.outcomes[c.id]?.gives === "Shape" && Object.keys(c.values ?? {}).length > 0),
  },
  {
    title: "Lay a lattice on it",
    how: "The next clause works on what is above it. Its pattern is chosen by pictures; its density by bays or by a module.",
    kind: "pattern",
    isDone: (s) => made(s, "Net"),
  },
  {
    title: "Make it a structure",
    how: "Edges become members of a section, cut back where they meet. The readouts on the right say what they come to.",
    kind: "frame",
    isDone: (s) => made(s, "Structure"),
  },
  {
    title: "Close it with panels",
    how: "Flat panels of a sheet between the members; what is not flat is split, and said.",
    kind: "panels",
    isDone: (s) => made(s, "Panels"),
  },
  {
    title: "Read what it is made of",
    how: "Schedules list every member, node and panel; a row that is picked is lit in the view, and the other way round.",
    screen: "schedules",
    isDone: (s) => s.seen.has("schedules"),
  },
  {
    title: "Take it along",
    how: "Deliver writes models, drawings and schedules, and checks the files against each other before they go.",
    screen: "deliver",
    isDone: (s) => s.seen.has("deliver"),
  },
];

/** The first step that is not done, and how many are; all of them once none is left. */
export function progress(state: Stated): { at: number; done: boolean[] } {
  const done = STEPS.map((step) => step.isDone(state));
  const first = done.indexOf(false);
  return { at: first < 0 ? STEPS.length : first, done };
}

const key = (project: string) => `shown round ${project}`;

interface Round {
  project: string;
  on: boolean;
  seen: ReadonlySet<string>;
  open: (project: string) => void;
  begin: () => void;
  leave: () => void;
  see: (screen: string) => void;
}

const remember = ({ project, on, seen }: Pick<Round, "project" | "on" | "seen">) =>
  on ? keep(key(project), [...seen]) : localStorage.removeItem(key(project));

/** Whether one is shown round a project; kept in this browser until it is left. */
export const useRound = create<Round>((set, get) => {
  const change = (part: Partial<Round>) => {
    set(part);
    remember(get());
  };
  return {
    project: "",
    on: false,
    seen: new Set<string>(),
    open: (project) => {
      const seen = kept<string[] | null>(key(project), null);
      set({ project, on: seen !== null, seen: new Set(seen) });
    },
    begin: () => change({ on: true, seen: new Set() }),
    leave: () => change({ on: false }),
    see: (screen) => {
      if (get().on && screen && !get().seen.has(screen)) change({ seen: new Set([...get().seen, screen]) });
    },
  };
});
