import { interpolatePuOr, interpolateViridis } from "d3-scale-chromatic";
import { Color } from "three";

/** Colours of the view, after the theme. */
export const PALETTE = {
  card: "#e9eff1",
  graticule: "#c3d0d4",
  graticuleStrong: "#a3b5bb",
  ink: "#262f5c",
  axis: "#5d6079",
  member: "#3d4a86",
  edge: "#232b57",
  node: "#8d8768",
  surface: "#e0dac7",
  surfaceInside: "#bdb398",
  outside: "#c9dcc0",
  inside: "#d9a08c",
  between: "#cbbf9a",
  rim: "#8b999c",
  band: "#e0c398",
  bandEdge: "#7a5f3a",
  main: "#b3541e",
  second: "#1c7566",
  third: "#8a6d1d",
  plum: "#7a2e62",
  lit: "#a0568a",
} as const;

/** Colours that tell kinds apart, for colour-blind eyes too (Okabe and Ito, 2008), darkened where they are pale. */
const KINDS = ["#0072b2", "#d98200", "#009e73", "#c2609a", "#56a6d8", "#c24a00", "#8a7a1c", "#4d4d4d"];

/** The colour of the so-manyth kind, counted from 0; they come again where there are more than there are colours. */
export const kindColour = (kind: number): string => KINDS[kind % KINDS.length]!;

/** A perceptually even ramp that holds for colour-blind eyes too; `share` from 0 to 1. */
export const ramp = (share: number): string =>
  interpolateViridis(0.05 + 0.9 * Math.min(1, Math.max(0, share)));

/** For figures on either side of nothing, such as curvature; `share` 0.5 is nothing. */
export const divergingRamp = (share: number): string =>
  interpolatePuOr(0.08 + 0.84 * Math.min(1, Math.max(0, share)));

/** Colours along the ramp for values, into a colour array of three numbers each. */
export function rampColours(
  values: ArrayLike<number>,
  low: number,
  high: number,
  of: (share: number) => string = ramp,
): Color[] {
  const steps = Array.from({ length: 64 }, (_, k) => new Color(of(k / 63)));
  const scale = high > low ? 63 / (high - low) : 0;
  return Array.from(
    { length: values.length },
    (_, i) => steps[Math.round(Math.min(63, Math.max(0, (values[i]! - low) * scale)))]!,
  );
}

/** A bound about nothing that all but the outermost hundredth of values keep within. */
export function evenBound(values: ArrayLike<number>): number {
  const sizes = Array.from(values, Math.abs)
    .filter(Number.isFinite)
    .sort((a, b) => a - b);
  return sizes[Math.floor(0.985 * (sizes.length - 1))] || 1e-9;
}

export function extent(values: ArrayLike<number>): [number, number] {
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  for (let i = 0; i < values.length; i++) {
    low = Math.min(low, values[i]!);
    high = Math.max(high, values[i]!);
  }
  return [low, high];
}
