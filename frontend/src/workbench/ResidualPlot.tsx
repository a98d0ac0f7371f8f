import { useMemo } from "react";

const [WIDTH, HEIGHT] = [300, 44];
/** The least that is told apart, as a share. */
const LEAST = 1e-7;

/** What is not balanced against the steps, its shares in powers of ten. */
export function ResidualPlot({
  steps,
  residuals,
}: {
  steps: ArrayLike<number>;
  residuals: ArrayLike<number>;
}) {
  const { path, low, high, last } = useMemo(() => {
    const logs = Array.from(residuals, (r) => Math.log10(Math.max(r, LEAST)));
    const low = Math.floor(Math.min(...logs, -1));
    const high = Math.ceil(Math.max(...logs, low + 1));
    const last = Math.max(steps[steps.length - 1] ?? 1, 1);
    const points = logs.map(
      (v, k) =>
        `${((steps[k]! / last) * WIDTH).toFixed(1)},${(HEIGHT * (1 - (v - low) / (high - low))).toFixed(1)}`,
    );
    return { path: points.join(" "), low, high, last };
  }, [steps, residuals]);
  const share = (power: number) => `${10 ** (power + 2)}\u202f%`;
  return (
    <figure className="mt-1" data-testid="residuals">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="h-11 w-full border-y border-rule"
        preserveAspectRatio="none"
        role="img"
        aria-label={`Residual from ${share(high)} to ${share(low)} over ${last} steps`}
      >
        <polyline
          points={path}
          fill="none"
          className="stroke-plum"
          strokeWidth={1.3}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <figcaption className="flex justify-between text-xs text-soft">
        <span>
          Not balanced: {share(high)} at the top, {share(low)} at the foot
        </span>
        <span>{last} steps</span>
      </figcaption>
    </figure>
  );
}
