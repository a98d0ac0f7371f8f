/** The paper that the interface is on, light or dark, kept in this browser. */
import { create } from "zustand";

export type Paper = "light" | "dark";

const KEPT = "paper";

const kept = (): Paper => (localStorage.getItem(KEPT) === "dark" ? "dark" : "light");

export const usePaper = create<{ paper: Paper; turn: () => void }>((set, get) => ({
  paper: kept(),
  turn: () => {
    const paper = get().paper === "dark" ? "light" : "dark";
    localStorage.setItem(KEPT, paper);
    layPaper(paper);
    set({ paper });
  },
}));

/** Gives the page the colours of a paper. */
export function layPaper(paper: Paper = kept()) {
  document.documentElement.dataset.paper = paper;
}

/** A colour of the theme as the page has it now. */
export const themeColour = (name: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();
