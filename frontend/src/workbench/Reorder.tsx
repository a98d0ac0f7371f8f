import { type ReactNode, useState } from "react";
import { useOpened } from "../state/opened";
import { placeAfter } from "./placing";

const KIND = "application/x-lean-lattice-clause";

/** What a clause is taken hold of by, to be put elsewhere in the statement; its menu moves it by keys. */
export function Grip({ index }: { index: number }) {
  return (
    <span
      draggable
      aria-hidden
      data-grip={index}
      title="Drag it to where it is to stand"
      className="absolute top-2 -left-0.5 w-3 cursor-grab text-center text-xs leading-5 text-transparent group-hover/clause:text-soft"
      onDragStart={(e) => {
        e.dataTransfer.setData(KIND, String(index));
        e.dataTransfer.effectAllowed = "move";
      }}
    >
      ⠿
    </span>
  );
}

/** Where a clause that is dragged may be put: above or below the one it is held over. */
export function DropPlace({ index, ids, children }: { index: number; ids: string[]; children: ReactNode }) {
  const { channel } = useOpened();
  const [side, setSide] = useState<"above" | "below" | null>(null);
  const over = (e: React.DragEvent) => {
    if (!e.dataTransfer.types.includes(KIND)) return;
    e.preventDefault();
    const box = e.currentTarget.getBoundingClientRect();
    setSide(e.clientY < box.top + box.height / 2 ? "above" : "below");
  };
  const drop = (e: React.DragEvent) => {
    e.preventDefault();
    const from = Number(e.dataTransfer.getData(KIND));
    const to = placeAfter(from, side === "below" ? index + 1 : index);
    setSide(null);
    const clause = ids[from];
    if (clause !== undefined && to !== from) void channel.edit({ op: "move", clause, to });
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the menu of a clause moves it by keys
    <div className="relative" onDragOver={over} onDragLeave={() => setSide(null)} onDrop={drop}>
      {side && (
        <span
          aria-hidden
          className={`absolute inset-x-0 z-10 h-0.5 bg-plum ${side === "above" ? "-top-px" : "-bottom-px"}`}
        />
      )}
      {children}
    </div>
  );
}
