/** How many pixels quick pictures have, by how long those before took. */

/** Pixels a side as a share of those of the screen; what the picture before had and took, if it had more; and the least
 * share that is worth anything. */
export interface Pace {
  share: number;
  before: { share: number; ms: number } | null;
  least: number;
}

const COARSEST = 0.2;
const FIRST = 0.5;
const SLOW_MS = 60;
const SWIFT_MS = 17;
/** A picture with fewer pixels that takes longer than this share of what the one before took did not have too many. */
const NO_QUICKER = 0.8;

export const AT_EASE: Pace = { share: 1, before: null, least: COARSEST };

/** The pace for something else to be drawn: what was too much may be so again, but the first look at it is not the coarsest. */
export function anew({ share }: Pace): Pace {
  return { ...AT_EASE, share: Math.max(share, FIRST) };
}

/** The pace after a picture took so many milliseconds: fewer pixels where it was slow, as far as that is any quicker. What
 * takes long for its many corners would take as long in any size. */
export function paced({ share, before, least }: Pace, ms: number): Pace {
  if (before && ms > SLOW_MS && ms > NO_QUICKER * before.ms)
    return { share: before.share, before: null, least: before.share };
  if (ms > SLOW_MS) {
    const fewer = Math.max(least, share * Math.max(Math.sqrt(SLOW_MS / ms), 0.5));
    return { share: fewer, before: fewer < share ? { share, ms } : null, least };
  }
  if (ms < SWIFT_MS) return { share: Math.min(1, share * 1.1), before: null, least };
  return { share, before: null, least };
}
