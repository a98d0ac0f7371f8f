import { feetText, inFeet } from "../ui/lengths";
import type { Legend } from "./model";
import { divergingRamp, ramp } from "./palette";

const stops = (of: (share: number) => string) =>
  Array.from({ length: 9 }, (_, k) => `${of(k / 8)} ${(k / 8) * 100}%`).join(", ");
/** Words that a legend has room for. */
const MOST_WORDS = 12;
const RAMP = stops(ramp);
const EVEN = stops(divergingRamp);

/** The ramp of a coloured figure with its ends in units. */
export function LegendBox({ legend }: { legend: Legend }) {
  if (legend.words)
    return (
      <div className="absolute top-3 right-3 rounded-sm bg-leaf/90 px-3 py-2 text-xs" data-testid="legend">
        <p className="mb-1">{legend.title}</p>
        {legend.words.slice(0, MOST_WORDS).map(([word, colour]) => (
          <p key={word} className="flex items-center gap-2">
            <span className="size-3 rounded-xs border border-rule" style={{ background: colour }} />
            {word}
          </p>
        ))}
        {legend.words.length > MOST_WORDS && (
          <p className="text-soft">and {legend.words.length - MOST_WORDS} more</p>
        )}
      </div>
    );
  const digits = legend.high - legend.low < 0.1 ? 3 : 2;
  const asFeet = inFeet(legend.unit);
  const value = (share: number) => {
    const own = legend.low + share * (legend.high - legend.low);
    return asFeet ? feetText(own, legend.unit) : own.toFixed(digits);
  };
  return (
    <div className="absolute top-3 right-3 w-56 rounded-sm bg-leaf/90 px-3 py-2 text-xs" data-testid="legend">
      <p className="mb-1">
        {legend.title} {!asFeet && <span className="text-soft">in {legend.unit}</span>}
      </p>
      <div
        className="h-2.5 rounded-xs"
        style={{ background: `linear-gradient(to right, ${legend.even ? EVEN : RAMP})` }}
      />
      <p className="flex justify-between">
        <span>{value(0)}</span>
        <span>{value(0.5)}</span>
        <span>{value(1)}</span>
      </p>
      {legend.note && <p className="text-soft">{legend.note}</p>}
    </div>
  );
}
