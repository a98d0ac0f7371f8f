import { useEffect, useState } from "react";
import { plain } from "../../ui/text";

interface Props {
  label: string;
  short?: string;
  value: number | string;
  onCommit: (value: number | string) => void;
}

const text = (value: number | string) => (typeof value === "number" ? plain(value) : value);

/** A coordinate in exact numbers or as a formula; takes effect on Enter or when left. */
export function CoordinateField({ label, short, value, onCommit }: Props) {
  const [typed, setTyped] = useState(text(value));
  useEffect(() => setTyped(text(value)), [value]);
  const commit = () => {
    const trimmed = typed.trim();
    const number = Number(trimmed.replace(",", "."));
    const next = Number.isNaN(number) ? trimmed : number;
    if (!trimmed || next === value) return setTyped(text(value));
    onCommit(next);
  };
  return (
    <label className="inline-flex items-baseline gap-1">
      {short && <span className="text-xs text-soft">{short}</span>}
      <input
        aria-label={label}
        className="w-17 rounded-sm border border-rule bg-white px-1 text-right focus:border-plum"
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
