import { useEffect, useState } from "react";
import { feetText, inFeet, typedLength, useLengths } from "../../ui/lengths";
import { plain } from "../../ui/text";

/** What coordinates are in. */
const UNIT = "m";

interface Props {
  label: string;
  short?: string;
  value: number | string;
  onCommit: (value: number | string) => void;
}

/** A coordinate in exact numbers or as a formula; takes effect on Enter or when left. */
export function CoordinateField({ label, short, value, onCommit }: Props) {
  const system = useLengths((s) => s.system);
  const text = (shown: number | string) => {
    if (typeof shown === "string") return shown;
    return inFeet(UNIT, system) ? feetText(shown, UNIT) : plain(shown);
  };
  const [typed, setTyped] = useState(text(value));
  // biome-ignore lint/correctness/useExhaustiveDependencies: what it reads as follows from these
  useEffect(() => setTyped(text(value)), [value, system]);
  const commit = () => {
    const trimmed = typed.trim();
    if (typed === text(value)) return;
    const number = typedLength(trimmed, UNIT) ?? Number(trimmed.replace(",", "."));
    const next = Number.isNaN(number) ? trimmed : number;
    if (!trimmed || next === value) return setTyped(text(value));
    onCommit(next);
  };
  return (
    <label className="inline-flex items-baseline gap-1">
      {short && <span className="text-xs text-soft">{short}</span>}
      <input
        aria-label={label}
        className="w-17 rounded-sm border border-rule bg-field px-1 text-right focus:border-plum"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === "Enter") commit();
          if (e.key === "Escape") setTyped(text(value));
          if (e.key === "Enter" || e.key === "Escape") e.stopPropagation();
        }}
      />
    </label>
  );
}
