/** Clauses as text, to be copied from one project into another, or into a letter. */
import type { ClauseEntry } from "../api/client";
import { freshId } from "./freshId";

const FORMAT = "lean-lattice-clauses";

export function asText(entries: readonly ClauseEntry[]): string {
  return JSON.stringify({ format: FORMAT, clauses: entries }, null, 2);
}

/** The clauses of a text, with ids that no clause `there` has; those that work on each other still do, and what they
 * worked on elsewhere is left to be found anew. `null` for any other text. */
export function fromText(text: string, there: readonly ClauseEntry[]): ClauseEntry[] | null {
  const read = parsed(text);
  if (!read) return null;
  const taken = [...there];
  const ids = new Map<string, string>();
  return read.map((entry) => {
    const id = taken.some((c) => c.id === entry.id) ? freshId(entry.kind, taken) : entry.id;
    // What a clause works on is above it.
    const pasted = { ...entry, id, on: rewired(entry.on ?? {}, ids) };
    ids.set(entry.id, id);
    taken.push(pasted);
    return pasted;
  });
}

type On = NonNullable<ClauseEntry["on"]>;

function rewired(on: On, ids: ReadonlyMap<string, string>): On {
  const out: On = {};
  for (const [input, source] of Object.entries(on)) {
    const listed = (Array.isArray(source) ? source : [source]).filter((id) => ids.has(id));
    const known = listed.map((id) => ids.get(id)!);
    // An input that is to stay empty stays so.
    if (Array.isArray(source) && !source.length) out[input] = [];
    else if (known.length) out[input] = Array.isArray(source) ? known : known[0]!;
  }
  return out;
}

function parsed(text: string): ClauseEntry[] | null {
  try {
    const read = JSON.parse(text);
    if (read?.format !== FORMAT || !Array.isArray(read.clauses) || !read.clauses.length) return null;
    return read.clauses.every(isEntry) ? read.clauses : null;
  } catch {
    return null;
  }
}

const isEntry = (entry: unknown): entry is ClauseEntry =>
  typeof entry === "object" &&
  entry !== null &&
  typeof (entry as ClauseEntry).id === "string" &&
  typeof (entry as ClauseEntry).kind === "string";
