import { describe, expect, it } from "vitest";
import { AT_EASE, anew, type Pace, paced } from "./pace";

/** The pace after so many pictures that take as long as a share of the pixels has them take. */
function paceAfter(count: number, ms: (share: number) => number, from: Pace = AT_EASE): Pace {
  let pace = from;
  for (let k = 0; k < count; k++) pace = paced(pace, ms(pace.share));
  return pace;
}

describe("the pace of quick pictures", () => {
  it("has fewer pixels where these take long", () => {
    const { share } = paceAfter(12, (s) => 400 * s * s);
    expect(400 * share * share).toBeLessThan(100);
    expect(share).toBeGreaterThan(0.2);
  });

  it("keeps them where it is not they that take long", () => {
    expect(paceAfter(12, () => 900).share).toBe(1);
    const mixed = paceAfter(12, (s) => 500 + 1000 * s * s).share;
    expect(mixed).toBeGreaterThan(0.2);
  });

  it("is drawn plainly where fewer pixels do not help, and may have fewer then", () => {
    expect(paceAfter(12, (s) => 400 * s * s).plain).toBe(false);
    let pace = AT_EASE;
    for (let k = 0; k < 12; k++) pace = paced(pace, (pace.plain ? 0 : 900) + 100 * pace.share ** 2);
    expect(pace.plain).toBe(true);
    expect(100 * pace.share ** 2).toBeLessThan(70);
    for (let k = 0; k < 12; k++) pace = paced(pace, 4000 * pace.share ** 2);
    expect(pace.share).toBe(0.5);
  });

  it("is kept for what is drawn next, but for the coarsest", () => {
    const slow = paceAfter(12, (s) => 4000 * s * s);
    expect(anew(slow)).toEqual({ ...AT_EASE, share: 0.5 });
    expect(anew(AT_EASE)).toEqual(AT_EASE);
  });

  it("comes back to all of them once there is time", () => {
    const slow = paceAfter(12, (s) => 400 * s * s);
    expect(paceAfter(30, () => 5, slow).share).toBe(1);
  });
});
