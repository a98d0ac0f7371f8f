/** Where a clause then stands that is taken from one place and put before the one at another, as they are counted
 * before that. */
export const placeAfter = (from: number, before: number): number => (before > from ? before - 1 : before);
