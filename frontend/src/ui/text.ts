import type { Schemas } from "../api/client";
import { feetText, inFeet } from "./lengths";

/** Square metres. */
const SQUARE_FOOT = 0.3048 ** 2;
const formatters = new Map<number, Intl.NumberFormat>();

/** Formatters are dear to make, and numbers change with every picture of a drag. */
function formatter(places: number): Intl.NumberFormat {
  let found = formatters.get(places);
  if (!found) {
    found = new Intl.NumberFormat("en-GB", {
      minimumFractionDigits: places,
      maximumFractionDigits: places,
      signDisplay: "negative",
    });
    formatters.set(places, found);
  }
  return found;
}

/** Numbers as the interface writes them: a thin space before the unit, thousands set apart; what rounds to 0 has no sign. */
export function figureText(value: number | string, unit: string, decimals: number): string {
  if (typeof value === "string") return value;
  if (inFeet(unit)) return feetText(value, unit);
  if (unit === "m²" && inFeet("m")) return `${formatter(decimals).format(value / SQUARE_FOOT)}\u202fft²`;
  const [shown, shownUnit, places] =
    unit === "kg" && Math.abs(value) >= 10_000 ? [value / 1000, "t", 2] : [value, unit, decimals];
  const text = formatter(places).format(shown);
  if (shownUnit === "£") return `£${text}`;
  return shownUnit ? `${text}\u202f${shownUnit}` : text;
}

/** Numbers of one unit that go together, the unit once; in feet and inches each with its own. */
export function togetherText(values: readonly number[], unit: string, decimals: number, between: string) {
  if (inFeet(unit)) return values.map((value) => feetText(value, unit)).join(between);
  return `${values.map((value) => value.toFixed(decimals)).join(between)}\u202f${unit}`;
}

/** Words as they begin a line. */
export const capital = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);

/** A value as typed: as few decimals as it needs. */
export const plain = (value: number): string => String(Number(value.toPrecision(10)));

export function secondsText(seconds: number): string {
  if (seconds < 0.001) return "< 1\u202fms";
  return seconds < 1 ? `${Math.round(seconds * 1000)}\u202fms` : `${seconds.toFixed(1)}\u202fs`;
}

export function whenText(iso: string): string {
  const date = new Date(iso);
  const minutes = (Date.now() - date.getTime()) / 60_000;
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${Math.round(minutes)} min ago`;
  return date.toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}

/** A sentence with its lengths written as the project has them. */
export function saidText(text: string, lengths: readonly Schemas["LengthMessage"][]): string {
  return lengths.reduceRight((told, { at, words, values, unit, form }) => {
    if (!inFeet(unit)) return told;
    const left = values.map((value) => feetText(value, unit));
    const own = form.replace(/\{\}/g, () => left.shift() ?? "");
    return told.slice(0, at) + own + told.slice(at + words.length);
  }, text);
}
