/** Which handles the values of a clause have, and the lines they hang on. */
import { Vector3 } from "three";
import type { ClauseEntry, ClauseKind, ValueSpec } from "../api/client";
import type { Shown } from "../live/decode";
import { feetText, inFeet } from "../ui/lengths";
import { figureText } from "../ui/text";
import { segmentsOf, valueIn } from "../workbench/values/values";
import { at } from "./layers";

/** A handle: where it lies, the line or plane it moves in, and the edit that a move means. */
export interface Handle {
  id: string;
  label: string;
  place: Vector3;
  square?: boolean;
  /** Normal of the plane it moves in; with Alt it moves along that normal. */
  normal?: Vector3;
  /** Direction of the line it moves along. */
  line?: Vector3;
  moved: (to: Vector3) => { name: string; value: unknown };
  tip: (to: Vector3) => string;
  /** The edit of an arrow key where it is not a step in space: one step of the value up or down. */
  nudged?: (sign: number) => { name: string; value: unknown };
  /** Handles that can be picked together, and the edit that moving some of them by the same step means. */
  together?: { index: number; by: (indices: number[], step: Vector3) => { name: string; value: unknown } };
}

type Points = number[][];
const GRID = 0.01;
export const round = (x: number) => Math.round(x / GRID) * GRID;
const tidy = (v: Vector3) => [round(v.x), round(v.y), round(v.z)].map((x) => Number(x.toFixed(3)));
export const placeText = (v: Vector3) =>
  (["x", "y", "z"] as const).map((axis) => `${axis} ${figureText(v[axis], "m", 2)}`).join("  ");
const vector = (p: number[]) => new Vector3(p[0], p[1], p[2]);
const isNumbers = (p: unknown): p is number[] => Array.isArray(p) && p.every((c) => typeof c === "number");

/** Normal of the plane a profile lies in; of the upright plane through it when it is straight. */
function profileNormal(points: Vector3[]): Vector3 {
  const normal = new Vector3();
  const first = points[0]!;
  for (let k = 1; k + 1 < points.length; k++)
    normal.add(
      points[k]!.clone()
        .sub(first)
        .cross(points[k + 1]!.clone().sub(first)),
    );
  const along = points.at(-1)!.clone().sub(first);
  if (normal.length() < 1e-6 * Math.max(along.lengthSq(), 1e-9))
    normal.crossVectors(along, new Vector3(0, 0, 1));
  return normal.lengthSq() > 1e-12 ? normal.normalize() : new Vector3(0, 1, 0);
}

const middle = (points: Vector3[]) =>
  points.reduce((a, p) => a.addScaledVector(p, 1 / points.length), new Vector3());

function profileHandles(name: string, profiles: Points[]): Handle[] {
  const lines = profiles.map((p) => p.map(vector));
  const middles = lines.map(middle);
  return lines.flatMap((line, i) => {
    const normal = profileNormal(line);
    const along = middles[Math.min(i + 1, lines.length - 1)]!.clone()
      .sub(middles[Math.max(i - 1, 0)]!)
      .normalize();
    const points: Handle[] = line.map((place, k) => ({
      id: `${name}-${i}-${k}`,
      label: `Profile ${i + 1} point ${k + 1}`,
      place,
      normal,
      moved: (to) => ({
        name,
        value: profiles.map((p, a) => (a === i ? p.map((q, b) => (b === k ? tidy(to) : q)) : p)),
      }),
      tip: placeText,
    }));
    const whole: Handle = {
      id: `${name}-${i}`,
      label: `Profile ${i + 1}, move along`,
      place: middles[i]!,
      square: true,
      line: along.lengthSq() > 0 ? along : normal,
      moved: (to) => {
        const by = to.clone().sub(middles[i]!);
        return { name, value: profiles.map((p, a) => (a === i ? p.map((q) => tidy(vector(q).add(by))) : p)) };
      },
      tip: (to) => `moved along by ${figureText(to.distanceTo(middles[i]!), "m", 2)}`,
    };
    return [...points, whole];
  });
}

const UPRIGHT = new Vector3(0, 0, 1);

/** Handles of a list of places, which move level unless Alt is held. */
function placesHandles(
  name: string,
  label: string,
  places: Vector3[],
  written: (places: Vector3[]) => unknown,
  normal = UPRIGHT,
): Handle[] {
  return places.map((place, index) => ({
    id: `${name}-${index}`,
    label: `${label} ${index + 1}`,
    place,
    normal,
    moved: (to) => ({ name, value: written(places.map((p, k) => (k === index ? to : p))) }),
    tip: placeText,
    together: {
      index,
      by: (indices, step) => ({
        name,
        value: written(places.map((p, k) => (indices.includes(k) ? p.clone().add(step) : p))),
      }),
    },
  }));
}

/** The same handle seen so much higher. */
const raised = (handle: Handle, by: number): Handle => ({
  ...handle,
  place: handle.place.clone().setZ(handle.place.z + by),
  moved: (to) => handle.moved(to.clone().setZ(to.z - by)),
});

export const aid = (shown: Shown | undefined, name: string): Vector3[] => {
  const a = shown?.arrays[`aid ${name}`];
  return a ? Array.from({ length: a.length / 3 }, (_, i) => at(a, i)) : [];
};

type DrawnCurve = [string, number[][]];
type Cage = number[][][];

/** Handles of values that are lists: places, drawn curves, cages and control boxes. */
function listHandles(spec: ValueSpec, value: unknown, shown: Shown | undefined): Handle[] {
  const { name, label } = spec;
  if (spec.kind === "places" && Array.isArray(value) && value.every(isNumbers)) {
    const handles = placesHandles(name, label, value.map(vector), (all) => all.map(tidy));
    // Where height says nothing, they are seen on the model.
    const level = aid(shown, `level ${name}`)[0];
    return level ? handles.map((h) => raised(h, level.z - h.place.z)) : handles;
  }
  if (spec.kind === "cage" && Array.isArray(value)) {
    const [vertices = [], ...rest] = value as Cage;
    return placesHandles(name, "Cage point", vertices.map(vector), (all) => [all.map(tidy), ...rest]);
  }
  if (spec.kind === "offsets" && Array.isArray(value)) {
    const rest = aid(shown, "box");
    const moves = value as number[][];
    const places = rest.map((p, k) => (moves[k] ? p.clone().add(vector(moves[k])) : p));
    return placesHandles(name, "Box point", places, (all) =>
      all.map((p, k) => tidy(p.clone().sub(rest[k]!))),
    );
  }
  if (spec.kind === "curves" && Array.isArray(value)) {
    const [origin, x, y] = aid(shown, "plane");
    if (!origin || !x || !y) return [];
    const curves = value as DrawnCurve[];
    const normal = x.clone().cross(y);
    const lift = (p: number[]) => origin.clone().addScaledVector(x, p[0]!).addScaledVector(y, p[1]!);
    const flat = (p: Vector3) => {
      const d = p.clone().sub(origin);
      return [d.dot(x), d.dot(y)].map((c) => Number(round(c).toFixed(3)));
    };
    const owner = curves.flatMap(([, points], c) => points.map((_, k) => [c, k] as const));
    const places = curves.flatMap(([, points]) => points.map(lift));
    return placesHandles(
      name,
      "Point",
      places,
      (all) =>
        curves.map(([type, points], c) => [
          type,
          points.map((_, k) => flat(all[owner.findIndex(([a, b]) => a === c && b === k)]!)),
        ]),
      normal,
    ).map((h, i) => ({ ...h, label: `Curve ${owner[i]![0] + 1} point ${owner[i]![1] + 1}` }));
  }
  return [];
}

/** A number snapped to its step and kept within its limits. */
function snapped(spec: ValueSpec, raw: number): number {
  const step = spec.step ?? 0.1;
  const even = Math.round(raw / step) * step;
  return Number(Math.min(spec.most ?? even, Math.max(spec.least ?? even, even)).toPrecision(8));
}

/** Where an angle's handle hangs: the end of its arm, turned about an axis. */
function onDial([centre, arm, axis]: Vector3[], degrees: number): Vector3 {
  return arm!
    .clone()
    .applyAxisAngle(axis!, (degrees * Math.PI) / 180)
    .add(centre!);
}

/** The handle of a number: on a line from a place, or at the end of an arm that turns. */
function numberHandles(
  entry: ClauseEntry,
  kind: ClauseKind,
  spec: ValueSpec,
  value: number,
  shown: Shown | undefined,
): Handle[] {
  const { name, label, unit } = spec;
  const nudged = (sign: number) => ({ name, value: snapped(spec, value + sign * (spec.step ?? 0.1)) });
  const dial = aid(shown, `dial ${name}`);
  if (dial.length === 3) {
    const [centre, arm, axis] = dial as [Vector3, Vector3, Vector3];
    const read = (to: Vector3) => {
      const d = to.clone().sub(centre);
      const across = axis.clone().cross(arm);
      const angle = (Math.atan2(d.dot(across), d.dot(arm)) * 180) / Math.PI;
      // Of the angles that come to the same place, the one nearest to what is there.
      return snapped(spec, angle + 360 * Math.round((value - angle) / 360));
    };
    return [
      {
        id: name,
        label,
        place: onDial(dial, value),
        normal: axis,
        moved: (to) => ({ name, value: read(to) }),
        tip: (to) => `${label} ${read(to)}${unit}`,
        nudged,
      },
    ];
  }
  const named = kind.values.find((v) => v.name === spec.handle?.origin);
  const origin = named ? valueIn(entry, named) : null;
  const hung = aid(shown, `line ${name}`);
  if (named ? !isNumbers(origin) : hung.length < 2) return [];
  const from = named ? vector(origin as number[]) : hung[0]!;
  const step = named
    ? vector(spec.handle!.direction).multiplyScalar(spec.handle!.scale ?? 1)
    : hung[1]!.clone();
  const line = step.clone().normalize();
  const read = (to: Vector3) => snapped(spec, to.clone().sub(from).dot(line) / step.length());
  return [
    {
      id: name,
      label,
      place: from.clone().addScaledVector(step, value),
      line,
      moved: (to) => ({ name, value: read(to) }),
      tip: (to) => `${label} ${inFeet(unit) ? feetText(read(to), unit) : `${read(to)}\u202f${unit}`}`,
      nudged,
    },
  ];
}

/** Names of the values that the sentence shows, as it reads now. */
function valuesRead(entry: ClauseEntry, kind: ClauseKind): Set<string> {
  return new Set(segmentsOf(entry, kind).map((s) => s.value));
}

export function handlesOf(entry: ClauseEntry, kind: ClauseKind, shown: Shown | undefined): Handle[] {
  const used = valuesRead(entry, kind);
  return kind.values.flatMap((spec): Handle[] => {
    if (!used.has(spec.name)) return [];
    const value = valueIn(entry, spec);
    const listed = listHandles(spec, value, shown);
    if (listed.length) return listed;
    if (spec.kind === "profiles") {
      const profiles = value as Points[];
      return profiles.every((p) => p.length > 1 && p.every(isNumbers))
        ? profileHandles(spec.name, profiles)
        : [];
    }
    if (spec.kind === "point" && isNumbers(value))
      return [
        {
          id: spec.name,
          label: spec.label,
          place: vector(value),
          square: true,
          normal: new Vector3(0, 0, 1),
          moved: (to) => ({ name: spec.name, value: tidy(to) }),
          tip: placeText,
        },
      ];
    return typeof value === "number" ? numberHandles(entry, kind, spec, value, shown) : [];
  });
}

/** Lines to draw for what a clause's handles hang on: profiles, a cage's edges, a control box. */
export function profileLines(
  entry: ClauseEntry | undefined,
  kind: ClauseKind | undefined,
  shown: Shown | undefined,
): Vector3[][] {
  if (!entry || !kind) return [];
  const used = valuesRead(entry, kind);
  return kind.values.flatMap((v): Vector3[][] => {
    if (!used.has(v.name)) return [];
    const value = valueIn(entry, v);
    if (v.kind === "profiles")
      return (value as Points[]).filter((p) => p.every(isNumbers)).map((p) => p.map(vector));
    if (v.kind === "cage" && Array.isArray(value)) {
      const [vertices = [], faces = []] = value as Cage;
      return faces.map((f) => [...f, f[0]!].map((k) => vector(vertices[k] ?? [0, 0, 0])));
    }
    const dial = aid(shown, `dial ${v.name}`);
    if (dial.length === 3 && typeof value === "number") return [[dial[0]!, onDial(dial, value)]];
    if (v.kind === "offsets")
      return boxLines(aid(shown, "box"), aid(shown, "box counts"), value as number[][]);
    return [];
  });
}

function boxLines(rest: Vector3[], counts: Vector3[], moves: number[][]): Vector3[][] {
  if (!counts[0] || !rest.length) return [];
  const [n, m, k] = counts[0].toArray() as [number, number, number];
  const places = rest.map((p, i) => (moves[i] ? p.clone().add(vector(moves[i])) : p));
  const number = (a: number, b: number, c: number) => places[(a * m + b) * k + c]!;
  const out: Vector3[][] = [];
  const range = (count: number) => Array.from({ length: count }, (_, i) => i);
  for (const b of range(m)) for (const c of range(k)) out.push(range(n).map((a) => number(a, b, c)));
  for (const a of range(n)) for (const c of range(k)) out.push(range(m).map((b) => number(a, b, c)));
  for (const a of range(n)) for (const b of range(m)) out.push(range(k).map((c) => number(a, b, c)));
  return out;
}
