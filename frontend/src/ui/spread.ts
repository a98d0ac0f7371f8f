/** How many of some values lie in each of so many equal steps from a lowest to a highest; of one value all are in the first. */
export function countsOf(values: ArrayLike<number>, low: number, high: number, steps: number): number[] {
  const scale = high > low ? steps / (high - low) : 0;
  const counts = new Array<number>(steps).fill(0);
  for (let i = 0; i < values.length; i++)
    counts[Math.min(steps - 1, Math.max(0, Math.floor((values[i]! - low) * scale)))]!++;
  return counts;
}
