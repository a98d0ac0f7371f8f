import { typeTitle } from "../api/catalogue";
import type { ClauseKind, ValueSpec } from "../api/client";
import { capital, plain } from "../ui/text";

const CHOICES_TOLD = 6;

/** What a value may be: its choices, or its unit and its limits. */
export function mayBe(spec: ValueSpec): string {
  const titles = spec.choices.map((c) => c.title);
  if (titles.length > CHOICES_TOLD)
    return `${titles.slice(0, CHOICES_TOLD).join(", ")} and ${titles.length - CHOICES_TOLD} more`;
  if (titles.length) return titles.join(", ");
  if (spec.kind !== "number" && spec.kind !== "count") return "";
  const unit = spec.unit ? ` ${spec.unit}` : "";
  const { least, most } = spec;
  if (least != null && most != null) return `${plain(least)} to ${plain(most)}${unit}`;
  if (least != null) return `${plain(least)}${unit} or more`;
  return spec.unit;
}

/** What a clause works on, each with whether it needs it; in the order in which it is told. */
export function worksOn(kind: ClauseKind): { label: string; needed: boolean; many: boolean }[] {
  return kind.takes.map((take) => ({ label: take.label, needed: !take.optional, many: take.many }));
}

/** What a clause makes, as people call it. */
export const gives = (kind: ClauseKind): string => capital(typeTitle(kind.gives) || kind.gives);
