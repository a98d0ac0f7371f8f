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

/** Kinds that speak of all words of a text, by their titles first, then by what is said of them, then by what can be
 * chosen in them. */
export function kindsFor(kinds: readonly ClauseKind[], text: string): readonly ClauseKind[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.length) return kinds;
  const levels = (kind: ClauseKind) => {
    const values = kind.values.flatMap((v) => [v.label, ...(v.choices ?? []).map((c) => c.title)]);
    return [
      kind.title,
      `${kind.group} ${kind.summary}`,
      kind.explained,
      [...kind.segments.map((s) => s.text), ...values].join(" "),
    ];
  };
  const rank = (kind: ClauseKind) => {
    let said = "";
    for (const [level, more] of levels(kind).entries()) {
      said += ` ${more.toLowerCase()}`;
      if (words.every((word) => said.includes(word))) return level;
    }
    return -1;
  };
  return kinds
    .map((kind) => ({ kind, rank: rank(kind) }))
    .filter((found) => found.rank >= 0)
    .toSorted((a, b) => a.rank - b.rank)
    .map((found) => found.kind);
}
