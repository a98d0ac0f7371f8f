/** How polygons are cut into triangles to be drawn. */
import type { Numbers } from "../live/decode";

/** Triangles of polygons, one polygon after the other. */
export interface Triangles {
  /** Three places each in the runs of corners. */
  corners: Uint32Array;
  /** The polygon each is part of. */
  owner: Uint32Array;
}

/** Polygons that are not cut from their first corner: which they are (`cutOf`, in rising order), three places each in the
 * own run of corners of one after the other (`cuts`), and how many triangles each has, where some have openings. */
export interface Cuts {
  cutOf?: Numbers | undefined;
  cuts?: Numbers | undefined;
  cutCounts?: Numbers | undefined;
}

/** Triangles of the polygons of which each has so many corners, or of those among them that are drawn. */
export function cutPolygons(
  counts: Numbers,
  { cutOf, cuts, cutCounts }: Cuts,
  has: (polygon: number) => boolean = () => true,
): Triangles {
  let most = 0;
  for (const n of counts) most += Math.max(n - 2, 0);
  for (const n of cutCounts ?? []) most += n;
  const corners = new Uint32Array(3 * most);
  const owner = new Uint32Array(most);
  let [count, start, listed, at] = [0, 0, 0, 0];
  for (let i = 0; i < counts.length; i++) {
    const isListed = cutOf !== undefined && cutOf[listed] === i;
    const triangles = (isListed && cutCounts?.[listed]) || counts[i]! - 2;
    const isDrawn = has(i);
    for (let k = 1; isDrawn && k <= triangles; k++) {
      for (let c = 0; c < 3; c++) {
        const place = isListed ? cuts![at + 3 * (k - 1) + c]! : c === 0 ? 0 : k + c - 1;
        corners[3 * count + c] = start + place;
      }
      owner[count++] = i;
    }
    if (isListed) {
      at += 3 * triangles;
      listed += 1;
    }
    start += counts[i]!;
  }
  return { corners: corners.subarray(0, 3 * count), owner: owner.subarray(0, count) };
}

/** The sides of triangles that no other one of their polygon has, as pairs of corners of triangles, three each. */
export function bordersOf({ corners, owner }: Triangles): Uint32Array {
  const borders: number[] = [];
  const most = corners.reduce((a, b) => Math.max(a, b), 0) + 1;
  const sides = new Map<number, [number, number] | null>();
  owner.forEach((polygon, t) => {
    for (let k = 0; k < 3; k++) {
      const [from, to] = [3 * t + k, 3 * t + ((k + 1) % 3)];
      const [a, b] = [corners[from]!, corners[to]!];
      const key = Math.min(a, b) * most + Math.max(a, b);
      sides.set(key, sides.has(key) ? null : [from, to]);
    }
    if (owner[t + 1] === polygon) return;
    for (const side of sides.values()) if (side) borders.push(...side);
    sides.clear();
  });
  return Uint32Array.from(borders);
}
