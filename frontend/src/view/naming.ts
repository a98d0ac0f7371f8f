/** Names of things, and where they are. */
import { Vector3 } from "three";
import { allLayers, layersOf } from "../api/catalogue";
import type { Shown } from "../live/decode";
import type { Live } from "../live/live";
import { type Item, item, type Layer, parts, type Thing } from "../state/view";
import { at } from "./layers";
import { middlesOf, middlesOfMembers } from "./middles";
import { sources } from "./model";
import type { Label } from "./overlay";

/** The things of a clause that are named by their numbers. */
interface Naming {
  clause: string;
  names: Shown;
}

/** Those of what nothing stands in the place of: what does has the same names. */
function namings(live: Live): Naming[] {
  const all = sources(live);
  const replaced = new Set(all.flatMap(({ clause }) => live.outcomes[clause]?.stands_for ?? []));
  return all.flatMap(({ clause, shown }) => {
    const names = replaced.has(clause) ? undefined : live.measures.get(shown.key);
    return names?.meta.prefixes ? [{ clause, names }] : [];
  });
}

function nameIn({ names }: Naming, thing: Thing, index: number): string {
  const { arrays, meta } = names;
  const number = arrays[thing]?.[index];
  const prefix = thing === "member" ? meta.memberPrefixes?.[arrays.role![index]!] : meta.prefixes?.[thing];
  return `${prefix ?? ""}${number}`;
}

/** The label of a thing, or what it is when it has none. */
export function labelOf(live: Live, id: Item): string {
  const { clause, kind, index } = parts(id);
  const own = live.geometry.get(live.outcomes[clause]?.key ?? "")?.meta.labels;
  if (own) return own[index] ?? "";
  const naming = namings(live).find((n) => n.clause === clause);
  return naming ? nameIn(naming, kind, index) : `${kind} ${index + 1}`;
}

/** What bears labels of its own, ribs and solids, with the layer its things are picked in. */
function lettered(
  live: Live,
): { clause: string; shown: Shown; labels: string[]; layer: string; thing: Thing }[] {
  return sources(live).flatMap(({ clause, shown }) => {
    const layer = layersOf(shown.of).find((l) => l.thing);
    const { labels } = shown.meta;
    return layer && labels ? [{ clause, shown, labels, layer: layer.name, thing: layer.thing }] : [];
  });
}

/** The thing after one, or before it, among those of its kind; the first member, or the first thing there is, where none is
 * given. */
export function nextThing(live: Live, id: Item | null, step: 1 | -1): Item | null {
  if (id) {
    const { clause, kind, index } = parts(id);
    const naming = namings(live).find((n) => n.clause === clause);
    const own = lettered(live).find((l) => l.clause === clause);
    const count = naming?.names.arrays[kind]?.length ?? own?.labels.length ?? 0;
    return count ? item(clause, kind, (index + step + count) % count) : null;
  }
  for (const thing of ["member", "panel", "node"] as const) {
    const naming = namings(live).find((n) => n.names.arrays[thing]?.length);
    if (naming) return item(naming.clause, thing, 0);
  }
  const own = lettered(live).at(-1);
  return own ? item(own.clause, own.thing, 0) : null;
}

/** The thing of a label, if there is one. */
export function itemOf(live: Live, label: string): Item | null {
  const wanted = label.trim().toUpperCase();
  for (const naming of namings(live))
    for (const thing of ["node", "member", "panel"] as const) {
      const count = naming.names.arrays[thing]?.length ?? 0;
      for (let i = 0; i < count; i++)
        if (nameIn(naming, thing, i) === wanted) return item(naming.clause, thing, i);
    }
  for (const { clause, labels, thing } of lettered(live)) {
    const index = labels.findIndex((own) => own.toUpperCase() === wanted);
    if (index >= 0) return item(clause, thing, index);
  }
  return null;
}

/** Where a thing is: the middle of its corners. */
export function placeOf(live: Live, id: Item): Vector3 | null {
  const { clause, kind, index } = parts(id);
  const shown = live.geometry.get(live.outcomes[clause]?.key ?? "");
  if (!shown?.arrays.positions) return null;
  const { positions, pieces, corners, counts, owner } = shown.arrays;
  if (owner) return middlesOf(shown, shown.meta.labels?.length ?? 0)[index] ?? null;
  if (kind === "member" && pieces) return middlesOfMembers(shown)[index] ?? null;
  let ends: number[] = [index];
  if (kind === "panel" && corners && counts) {
    let start = 0;
    for (let i = 0; i < index; i++) start += counts[i]!;
    ends = Array.from({ length: counts[index] ?? 0 }, (_, k) => corners[start + k]!);
  }
  const middle = new Vector3();
  for (const e of ends) middle.addScaledVector(at(positions, e), 1 / ends.length);
  return middle;
}

const LABELS_SHOWN = 6000;

/** Labels to write: of all drawn things when asked for, and of what is picked. */
export function labelsToWrite(
  live: Live,
  shown: Record<Layer, boolean>,
  selected: ReadonlySet<Item>,
  alone: ReadonlySet<Item> | null = null,
): Label[] {
  const out: Label[] = [];
  const isSeen = (clause: string, thing: Thing, index: number) =>
    !alone || alone.has(item(clause, thing, index));
  if (shown.labels)
    for (const naming of namings(live))
      for (const { name, thing } of allLayers()) {
        if (!shown[name] || !naming.names.arrays[thing]) continue;
        out.push(
          ...allPlaces(live, naming.clause, thing)
            .map((place, i) => ({ text: nameIn(naming, thing, i), place, i }))
            .filter(({ i }) => isSeen(naming.clause, thing, i)),
        );
        if (out.length > LABELS_SHOWN) return out.slice(0, LABELS_SHOWN);
      }
  if (shown.labels)
    for (const own of lettered(live)) {
      if (!shown[own.layer]) continue;
      const places = middlesOf(own.shown, own.labels.length);
      const all = own.labels.map((text, i) => ({ text, place: places[i]!, i }));
      out.push(...all.filter(({ i }) => isSeen(own.clause, own.thing, i)));
    }
  if (out.length > LABELS_SHOWN) out.length = LABELS_SHOWN;
  for (const id of [...selected].slice(0, 40)) {
    const place = placeOf(live, id);
    if (place) out.push({ text: labelOf(live, id), place, strong: true });
  }
  return out;
}

function allPlaces(live: Live, clause: string, thing: Thing): Vector3[] {
  const shown = live.geometry.get(live.outcomes[clause]?.key ?? "");
  const { positions, pieces, corners, counts } = shown?.arrays ?? {};
  if (!shown || !positions) return [];
  if (thing === "node") return Array.from({ length: positions.length / 3 }, (_, i) => at(positions, i));
  if (thing === "member" && pieces) return middlesOfMembers(shown);
  const out: Vector3[] = [];
  let start = 0;
  for (const n of counts ?? []) {
    const middle = new Vector3();
    for (let k = 0; k < n; k++) middle.addScaledVector(at(positions, corners![start + k]!), 1 / n);
    out.push(middle);
    start += n;
  }
  return out;
}
