declare module "polylabel" {
  /** The place in a polygon (its outline, then its openings) farthest from its sides, and how far that is. */
  export default function polylabel(
    polygon: [number, number][][],
    precision?: number,
  ): number[] & { distance: number };
}
