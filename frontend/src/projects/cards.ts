import type { ProjectCard } from "../api/client";

/** In what order cards come, and how that is said. */
export const ORDERS = { changed: "last change", name: "name" };
export type Order = keyof typeof ORDERS;

export interface CardGroup {
  title: string;
  cards: ProjectCard[];
}

/** Cards that speak of all words of a `text`, one's own before those of the demo. */
export function cardGroups(cards: readonly ProjectCard[], text: string, order: Order): CardGroup[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const found = cards.filter((card) => {
    const says = [card.name, ...card.builds, ...Object.keys(card.figures)].join(" ").toLowerCase();
    return words.every((word) => says.includes(word));
  });
  const sorted = found.toSorted((a, b) =>
    order === "name" || a.changed === b.changed
      ? a.name.localeCompare(b.name)
      : b.changed.localeCompare(a.changed),
  );
  return [
    { title: "My projects", cards: sorted.filter((card) => !card.demo) },
    // Those of the demo came all at once: only their names tell an order.
    { title: "Demo", cards: sorted.filter((card) => card.demo).toSorted(byName) },
  ].filter((group) => group.cards.length > 0);
}

const byName = (a: ProjectCard, b: ProjectCard) => a.name.localeCompare(b.name);
