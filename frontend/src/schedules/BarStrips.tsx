import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import { useOpened, useView } from "../state/opened";
import { figureText } from "../ui/text";
import type { Bar, Piece } from "./bars";

const ROW = 34;
/** Share of the longest bar from which a piece has room for its name. */
const ROOM = 0.045;

const lengthText = (millimetres: number) => figureText(millimetres / 1000, "m", 2);

/** Stock bars to one scale, with the members cut from each; picking one picks it in the view. */
export function BarStrips({ bars }: { bars: Bar[] }) {
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: bars.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const longest = Math.max(...bars.map((b) => b.stock), 1);
  return (
    <div ref={box} className="min-h-0 grow overflow-auto px-3 py-1 text-[13px]">
      <ul style={{ height: virtual.getTotalSize() }} className="relative" aria-label="Stock bars, drawn">
        {virtual.getVirtualItems().map((v) => (
          <Strip key={v.key} bar={bars[v.index]!} longest={longest} top={v.start} />
        ))}
      </ul>
    </div>
  );
}

function Strip({ bar, longest, top }: { bar: Bar; longest: number; top: number }) {
  const share = (length: number) => `${(100 * length) / longest}%`;
  return (
    <li
      className="absolute inset-x-0 grid grid-cols-[3.5rem_10rem_minmax(0,1fr)_6.5rem] items-center gap-2"
      style={{ height: ROW, transform: `translateY(${top}px)` }}
    >
      <span className="font-mono">{bar.label}</span>
      <span className="truncate text-soft" title={`${bar.section}, ${lengthText(bar.stock)}`}>
        {bar.section} · {bar.stock / 1000} m
      </span>
      <span className="relative h-6">
        <span
          className="absolute inset-y-0 left-0 border border-rule bg-[repeating-linear-gradient(135deg,var(--color-leaf)_0_5px,var(--color-rule)_5px_6px)]"
          style={{ width: share(bar.stock) }}
          title={`${lengthText(bar.stock)}, of which ${lengthText(bar.left)} are left`}
        />
        {bar.pieces.map((piece) => (
          <Cut key={piece.label} piece={piece} share={share} named={piece.to - piece.from > ROOM * longest} />
        ))}
      </span>
      <span className="text-right text-soft">{lengthText(bar.left)} left</span>
    </li>
  );
}

interface CutProps {
  piece: Piece;
  share: (length: number) => string;
  named: boolean;
}

function Cut({ piece, share, named }: CutProps) {
  const { viewing } = useOpened();
  const picked = useView((s) => piece.item !== undefined && s.selected.has(piece.item));
  const length = piece.to - piece.from;
  return (
    <button
      type="button"
      aria-pressed={picked}
      aria-label={`${piece.label}, ${lengthText(length)}`}
      title={`${piece.label}, ${lengthText(length)}`}
      className={`absolute inset-y-0 overflow-hidden border border-ink/40 text-center font-mono text-xs ${
        picked ? "bg-plum text-paper" : "bg-ground hover:bg-plum-pale"
      }`}
      style={{ left: share(piece.from), width: share(length) }}
      onClick={() => piece.item && viewing.getState().show([piece.item])}
    >
      {named ? piece.label : ""}
    </button>
  );
}
