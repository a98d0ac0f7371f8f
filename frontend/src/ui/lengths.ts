/** Lengths as people type and read them: metric, or in feet and inches. Files stay metric. */
import { create } from "zustand";

export type System = "metric" | "feet";

const FOOT = 0.3048;
const INCH = FOOT / 12;
/** Metres of what values are in. */
const UNITS: Record<string, number> = { m: 1, mm: 0.001 };
/** Into how many parts inches are divided as they are read. */
const PARTS = 16;
const TYPED =
  /^(-)?(?:(\d+(?:\.\d+)?)(?:'|′|\s*ft\b\.?))?[\s-]*(?:((?:\d+(?:\.\d+)?)?(?:[\s-]*\d+\/\d+)?)\s*(?:"|″|''|in\b\.?))?$/i;

/** How lengths are written in the project that is open. */
export const useLengths = create<{ system: System }>(() => ({ system: "metric" }));

/** Whether a value in a unit is written in feet or inches now. */
export const inFeet = (unit: string, system: System = useLengths.getState().system): boolean =>
  system === "feet" && (unit === "m" || unit === "mm");

/** Metres of what large lengths are counted in: a metre, or a foot. */
export const largeUnit = (system: System = useLengths.getState().system): number =>
  system === "feet" ? FOOT : 1;

/** A large length in as few decimals as it needs, with its unit. */
export function largeText(metres: number, system: System = useLengths.getState().system): string {
  const text = Number((metres / largeUnit(system)).toPrecision(6));
  return system === "feet" ? `${text}′` : `${text}\u202fm`;
}

/** A whole number with a fraction, such as 6 1/2. */
function mixed(parts: number): string {
  const whole = Math.floor(parts / PARTS);
  let [over, under] = [parts % PARTS, PARTS];
  while (over && over % 2 === 0) [over, under] = [over / 2, under / 2];
  if (!over) return String(whole);
  return whole ? `${whole}\u00a0${over}/${under}` : `${over}/${under}`;
}

/** A length in feet and inches to the sixteenth; small ones in decimals of an inch, as far as these tell anything. */
export function feetText(value: number, unit: string): string {
  const inches = Math.abs(value * UNITS[unit]!) / INCH;
  const sign = value < 0 ? "-" : "";
  if (unit === "mm" && inches < 1) return `${sign}${Number(inches.toFixed(3))}″`;
  const parts = Math.round(inches * PARTS);
  const feet = unit === "m" ? Math.floor(parts / (12 * PARTS)) : 0;
  const rest = parts - feet * 12 * PARTS;
  if (!feet) return `${sign}${mixed(rest)}″`;
  return `${sign}${feet}′${rest ? `\u00a0${mixed(rest)}″` : ""}`;
}

function inchesOf(text: string): number {
  const [, whole, over, under] = text.match(/^(?:(\d+(?:\.\d+)?)(?:[\s-]+|$))?(?:(\d+)\/(\d+))?$/) ?? [];
  return Number(whole ?? 0) + (over ? Number(over) / Number(under) : 0);
}

/** What a typed length in feet or inches, such as `12' 6"` or `3/4 in`, is in a unit; likewise a bare number where lengths
 * are in feet. Nothing where it is none, as formulas are, which know metric units themselves. */
export function typedLength(
  text: string,
  unit: string,
  system: System = useLengths.getState().system,
): number | null {
  const metres = UNITS[unit];
  const trimmed = text.trim();
  if (metres === undefined || !trimmed) return null;
  const exact = (value: number) => (Number.isFinite(value) ? Number((value / metres).toPrecision(10)) : null);
  const bare = Number(trimmed.replace(",", "."));
  if (!Number.isNaN(bare)) return inFeet(unit, system) ? exact(bare * (unit === "m" ? FOOT : INCH)) : null;
  const fraction = inFeet(unit, system) && /^\d+\/\d+$|^\d+\s+\d+\/\d+$/.test(trimmed) && unit === "mm";
  const [all, minus, feet, inches] = (fraction ? `${trimmed}"` : trimmed).match(TYPED) ?? [];
  if (all === undefined || (feet === undefined && !inches)) return null;
  const value = Number(feet ?? 0) * FOOT + inchesOf((inches ?? "").trim()) * INCH;
  return exact(minus ? -value : value);
}
