import type { Legend } from "./model";
import { ramp } from "./palette";

const STOPS = Array.from({ length: 9 }, (_, k) => `${ramp(k / 8)} ${(k / 8) * 100}%`).join(", ");

/** The ramp of a coloured figure with its ends in units. */
export function LegendBox({ legend }: { legend: Legend }) {
  const digits = legend.high - legend.low < 0.1 ? 3 : 2;
  const value = (share: number) => (legend.low + share * (legend.high - legend.low)).toFixed(digits);
  return (
    <div className="absolute top-3 right-3 w-56 rounded-sm bg-leaf/90 px-3 py-2 text-xs" data-testid="legend">
      <p className="mb-1">
        {legend.title} <span className="text-soft">in {legend.unit}</span>
      </p>
      <div className="h-2.5 rounded-xs" style={{ background: `linear-gradient(to right, ${STOPS})` }} />
      <p className="flex justify-between">
        <span>{value(0)}</span>
        <span>{value(0.5)}</span>
        <span>{value(1)}</span>
      </p>
    </div>
  );
}
