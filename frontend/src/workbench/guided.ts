import type { ClauseEntry, ClauseKind } from "../api/client";

const MOST_NEXT = 10;

/** Kinds that take what the clause before gives, and all else that they need from those above: what most likely comes
 * next. Where there is nothing yet, those that need nothing. */
export function comingNext(
  kinds: readonly ClauseKind[],
  before: readonly ClauseEntry[],
): readonly ClauseKind[] {
  const byKind = new Map(kinds.map((k) => [k.kind, k]));
  const given = before
    .filter((c) => !c.off)
    .map((c) => byKind.get(c.kind)?.gives)
    .filter((type): type is string => type !== undefined);
  const last = given.at(-1);
  const needed = (kind: ClauseKind) => kind.takes.filter((take) => !take.optional);
  if (last === undefined)
    return kinds.filter((kind) => kind.chapter === "Shape" && !needed(kind).length).slice(0, MOST_NEXT);
  const fits = (kind: ClauseKind) =>
    kind.takes.some((take) => take.types.includes(last) && !take.asked) &&
    needed(kind).every((take) => take.types.some((type) => given.includes(type)));
  const order = (kind: ClauseKind) => (kind.gives === last ? 1 : 0);
  return kinds
    .filter(fits)
    .toSorted((a, b) => order(a) - order(b))
    .slice(0, MOST_NEXT);
}

/** A word as it is looked for: one and many are alike. */
const sought = (word: string) => (word.length > 3 ? word.replace(/s$/, "") : word);

/** Whether a text says a word, or one that begins so: no “hang” is in “change”. */
const says = (text: string, word: string) => ` ${text}`.includes(` ${word}`);

/** Kinds that speak of all words of a text, by their titles first, then by what is said of them, then by what can be
 * chosen in them; where none does, those that speak of most. */
export function kindsFor(kinds: readonly ClauseKind[], text: string): readonly ClauseKind[] {
  const words = text
    .toLowerCase()
    .split(/[^\p{L}\d]+/u)
    .filter(Boolean)
    .map(sought);
  if (!words.length) return kinds;
  const levels = (kind: ClauseKind) => {
    const values = kind.values.flatMap((v) => [v.label, ...(v.choices ?? []).map((c) => c.title)]);
    return [
      kind.title,
      `${kind.group} ${kind.summary}`,
      kind.sought_by,
      kind.explained,
      [...kind.segments.map((s) => s.text), ...values].join(" "),
    ];
  };
  /** How many words are said, and up to where one has to read for these. */
  const rank = (kind: ClauseKind) => {
    let said = "";
    const counts = levels(kind).map((more) => {
      said += ` ${more.toLowerCase().replace(/[^\p{L}\d]+/gu, " ")}`;
      return words.filter((word) => says(said, word)).length;
    });
    const most = counts.at(-1)!;
    return { kind, most, level: counts.indexOf(most) };
  };
  const ranks = kinds.map(rank);
  const most = Math.max(...ranks.map((r) => r.most), 1);
  return ranks
    .filter((found) => found.most === most)
    .toSorted((a, b) => a.level - b.level)
    .map((found) => found.kind);
}
