/** What figures of a project are to keep to: at least or at most so much. */
import type { Figure, Schemas } from "../api/client";

export type Target = Schemas["Target"];
export type Targets = Readonly<Record<string, Target>>;

/** Targets with that of a figure; nothing to keep to takes it away. */
export function aimed(targets: Targets, figure: string, target: Target | null): Targets {
  const { [figure]: _, ...others } = targets;
  const isSet = target !== null && (isNumber(target.least) || isNumber(target.most));
  return isSet ? { ...others, [figure]: target } : others;
}

const isNumber = (value: number | null | undefined): value is number => typeof value === "number";

/** Whether a figure is not as it is to be; figures that are words, or still to come, are not looked at. */
export function isMissed({ value, pending }: Pick<Figure, "value" | "pending">, target?: Target): boolean {
  if (!target || pending || typeof value !== "number") return false;
  return value < (target.least ?? -Infinity) || value > (target.most ?? Infinity);
}
