/** What the help finds: our own words as the documentation has them, keys, and clauses. */
import vocabulary from "../../../docs/vocabulary.md?raw";
import type { ClauseKind } from "../api/client";
import { kindsFor } from "../workbench/guided";

export interface Entry {
  term: string;
  text: string;
}

export interface Found {
  clauses: ClauseKind[];
  words: Entry[];
  keys: Entry[];
}

const ROW = /^\| ([^|]+) \| ([^|]+) \|$/gm;
/** What only those who write the program need. */
const INSIDE = /^in the code|^-+$|^means$/;

/** The rows of tables of words in a text. */
export const wordsOf = (text: string): Entry[] =>
  [...text.matchAll(ROW)]
    .map(([, term, meaning]) => ({ term: term!.trim(), text: meaning!.trim() }))
    .filter((entry) => !INSIDE.test(entry.text));

const WORDS = wordsOf(vocabulary);
const MOST = 12;

/** What speaks of all words of a text: what is called so first. */
export function entriesFor(entries: readonly Entry[], text: string): Entry[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.length) return [];
  const in_ = (where: string) => words.every((word) => where.toLowerCase().includes(word));
  const named = entries.filter((e) => in_(e.term));
  const told = entries.filter((e) => !in_(e.term) && in_(`${e.term} ${e.text}`));
  return [...named, ...told];
}

export const found = (kinds: ClauseKind[], keys: readonly Entry[], text: string): Found => ({
  clauses: text.trim() ? kindsFor(kinds, text).slice(0, MOST) : [],
  words: entriesFor(WORDS, text).slice(0, MOST),
  keys: text.trim() ? entriesFor(keys, text) : [...keys],
});
