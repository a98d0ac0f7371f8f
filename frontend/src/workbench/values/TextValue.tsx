import { useEffect, useRef, useState } from "react";
import type { ValueSpec } from "../../api/client";

/** A short text in a sentence: clicked, typed over, and taken on Enter or when left. */
export function TextValue({
  spec,
  value,
  wrong,
  onCommit,
}: {
  spec: ValueSpec;
  value: string;
  wrong: boolean;
  onCommit: (text: string) => void;
}) {
  const [typing, setTyping] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (typing !== null && document.activeElement !== field.current) field.current?.select();
  }, [typing]);
  const taken = (text: string) => {
    setTyping(null);
    if (text.trim() !== value) onCommit(text.trim());
  };
  if (typing === null)
    return (
      <button
        type="button"
        className={`live ${wrong ? "!text-brick" : ""}`}
        data-value={spec.name}
        title={[spec.label, spec.hint].filter(Boolean).join(" · ")}
        onClick={() => setTyping(value)}
      >
        {value ? `“${value}”` : spec.one}
      </button>
    );
  return (
    <input
      ref={field}
      aria-label={spec.label}
      placeholder={spec.one}
      className="rounded-sm border border-plum bg-leaf px-1 font-sans text-[0.95em] text-plum"
      style={{ width: `${Math.max(12, typing.length + 2)}ch` }}
      value={typing}
      maxLength={200}
      onChange={(e) => setTyping(e.target.value)}
      onBlur={() => taken(typing)}
      onKeyDown={(e) => {
        if (e.key === "Enter") taken(typing);
        if (e.key === "Escape") setTyping(null);
        e.stopPropagation();
      }}
    />
  );
}
