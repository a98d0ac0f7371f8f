import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { feetText, inFeet, typedLength, useLengths } from "../../ui/lengths";
import { plain } from "../../ui/text";

export interface NumberProps {
  label: string;
  hint?: string;
  unit: string;
  value: number | string;
  /** What a formula comes to. */
  resolved?: number;
  step: number;
  least: number;
  most: number;
  whole?: boolean;
  wrong?: boolean;
  /** Whether a drag may change it: not a formula, or one that stands for a single dimension. */
  draggable: boolean;
  onPreview: (value: number) => void;
  /** Makes the change; whether it was taken. */
  onCommit: (value: number | string) => Promise<boolean>;
  onCancel: () => void;
  name: string;
}

const PIXELS_A_STEP = 4;

/** A number in a sentence: drag it sideways, type it, or step it with the arrow keys. */
export function NumberValue(p: NumberProps) {
  const [dragged, setDragged] = useState<number | null>(null);
  const [typing, setTyping] = useState<string | null>(null);
  const start = useRef<{ x: number; value: number; moved: boolean } | null>(null);
  const field = useRef<HTMLInputElement>(null);
  const system = useLengths((s) => s.system);
  const written = (value: number | string) => {
    if (typeof value === "string") return value;
    return inFeet(p.unit, system) ? feetText(value, p.unit) : plain(value);
  };
  const now = typeof p.value === "number" ? p.value : p.resolved;

  useEffect(() => {
    if (typing !== null && document.activeElement !== field.current) field.current?.select();
  }, [typing]);
  // What was dragged stays shown until the statement says it; meanwhile previews resolve formulas anew.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the value's arrival is the event
  useEffect(() => {
    if (!start.current) setDragged(null);
  }, [p.value, p.resolved]);

  // What was not taken is not shown as if it were.
  const commit = async (value: number | string) => {
    if (!(await p.onCommit(value))) setDragged(null);
  };
  const stepped = (from: number, steps: number, fine: boolean) => {
    const size = fine && !p.whole ? p.step / 10 : p.step;
    const value = Math.round((from + steps * size) / size) * size;
    return Number(Math.min(p.most, Math.max(p.least, value)).toPrecision(10));
  };
  const down = (e: PointerEvent<HTMLSpanElement>) => {
    if (e.button !== 0) return;
    if (p.draggable && now !== undefined) {
      start.current = { x: e.clientX, value: now, moved: false };
      e.currentTarget.setPointerCapture(e.pointerId);
    }
    e.preventDefault();
    e.currentTarget.focus();
  };
  const move = (e: PointerEvent) => {
    const from = start.current;
    if (!from || Math.abs(e.clientX - from.x) < 3) return;
    from.moved = true;
    const value = stepped(from.value, Math.round((e.clientX - from.x) / PIXELS_A_STEP), e.shiftKey);
    if (value === dragged) return;
    setDragged(value);
    p.onPreview(value);
  };
  const up = () => {
    const from = start.current;
    start.current = null;
    if (!from?.moved) return setTyping(written(p.value));
    if (dragged !== null && dragged !== from.value) return void commit(dragged);
    setDragged(null);
    p.onCancel();
  };
  const key = (e: KeyboardEvent) => {
    if (e.key === "Enter" || e.key === "F2") setTyping(written(p.value));
    else if ((e.key === "ArrowUp" || e.key === "ArrowDown") && p.draggable && now !== undefined) {
      // Shown at once, so that the next press goes on from there.
      const value = stepped(dragged ?? now, e.key === "ArrowUp" ? 1 : -1, e.shiftKey);
      setDragged(value);
      void commit(value);
    } else if (e.key === "Escape" && start.current) {
      start.current = null;
      setDragged(null);
      p.onCancel();
    } else return;
    e.preventDefault();
  };
  const typed = (text: string) => {
    setTyping(null);
    const trimmed = text.trim().replace(",", ".");
    if (!trimmed) return;
    const value = typedLength(text, p.unit) ?? Number(trimmed);
    const next = Number.isNaN(value) ? text.trim() : value;
    if (next !== p.value) void commit(next);
  };

  if (typing !== null)
    return (
      <input
        ref={field}
        aria-label={p.label}
        className="rounded-sm border border-plum bg-leaf px-1 font-sans text-[0.95em] text-plum"
        style={{ width: `${Math.max(6, typing.length + 2)}ch` }}
        value={typing}
        onChange={(e) => setTyping(e.target.value)}
        onBlur={() => typed(typing)}
        onKeyDown={(e) => {
          if (e.key === "Enter") typed(typing);
          if (e.key === "Escape") setTyping(null);
          e.stopPropagation();
        }}
      />
    );
  const shown = dragged ?? p.value;
  const comes = typeof shown === "string" && p.resolved !== undefined ? ` = ${written(p.resolved)}` : "";
  const ahead = p.unit === "£" ? "£" : "";
  const isSaid = !p.unit || Boolean(ahead) || inFeet(p.unit, system);
  const unit = p.unit === "°" ? "°" : isSaid ? "" : `\u202f${p.unit}`;
  return (
    <span
      role="spinbutton"
      tabIndex={0}
      aria-label={p.label}
      aria-valuenow={dragged ?? now ?? 0}
      aria-valuetext={`${ahead}${written(shown)}${comes}${unit}`}
      data-value={p.name}
      title={`${p.label}${p.hint ? ` · ${p.hint}` : ""}\nDrag sideways, click to type a number or a formula, or use ↑ ↓`}
      className={`live touch-none select-none ${p.draggable ? "cursor-ew-resize" : "cursor-text"} ${p.wrong ? "!text-brick !border-brick" : ""}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onKeyDown={key}
    >
      {ahead}
      {written(shown)}
      {comes && <span className="font-normal text-soft">{comes}</span>}
      {unit}
    </span>
  );
}
