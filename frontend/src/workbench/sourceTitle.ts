/** How long the first words of a sentence may be in a menu. */
const LONGEST = 44;

/** How a clause is named in a menu of those to work on: by its title, or where there are several by the first words of what
 * each says. */
export function sourceTitle(title: string, sentence: string | undefined, twins: boolean): string {
  if (!twins || !sentence) return title;
  const words = sentence.split(",")[0]!.replace(/\.$/, "");
  if (words.length <= LONGEST) return words;
  return `${words.slice(0, words.lastIndexOf(" ", LONGEST))} …`;
}
