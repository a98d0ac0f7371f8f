/** How many pixels quick pictures have, and whether they are plain, by how long those before took. */

/** Pixels a side as a share of those of the screen; what the picture before had and took, if it had more; the least share
 * that is worth anything; and whether what has many copies is drawn plainly. */
export interface Pace {
  share: number;
  before: { share: number; ms: number } | null;
  least: number;
  plain: boolean;
}

const COARSEST = 0.2;
const FIRST = 0.5;
/** Of thousands of thin things no more could be told with fewer. */
const LEAST_PLAIN = 0.5;
const SLOW_MS = 60;
const SWIFT_MS = 17;
/** A picture with fewer pixels that takes longer than this share of what the one before took did not have too many. */
const NO_QUICKER = 0.8;

export const AT_EASE: Pace = { share: 1, before: null, least: COARSEST, plain: false };

/** The pace for something else to be drawn: what was too much may be so again, but the first look at it is not the coarsest. */
export function anew({ share }: Pace): Pace {
  return { ...AT_EASE, share: Math.max(share, FIRST) };
}

/** The pace after a picture took so many milliseconds: fewer pixels where it was slow, as far as that is any quicker. What
 * takes long for its many corners would take as long in any size: that is drawn plainly first. */
export function paced(pace: Pace, ms: number): Pace {
  const { share, before, least } = pace;
  if (before && ms > SLOW_MS && ms > NO_QUICKER * before.ms) {
    const back = { ...pace, share: before.share, before: null };
    return pace.plain ? { ...back, least: before.share } : { ...back, least: LEAST_PLAIN, plain: true };
  }
  if (ms > SLOW_MS) {
    const fewer = Math.max(least, share * Math.max(Math.sqrt(SLOW_MS / ms), 0.5));
    return { ...pace, share: fewer, before: fewer < share ? { share, ms } : null };
  }
  if (ms < SWIFT_MS) return { ...pace, share: Math.min(1, share * 1.1), before: null };
  return { ...pace, before: null };
}
