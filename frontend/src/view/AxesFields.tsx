import { useState } from "react";
import { useMargin, useOpened } from "../state/opened";
import { type Axes, levelsIn } from "./axes";

/** How far apart grid axes are and where levels lie; shown or not. */
export function AxesFields() {
  const { margin } = useOpened();
  const noted = useMargin((m) => m.axes);
  const axes: Kept = {
    ...noted,
    change: (change) => void margin.note({ axes: { ...margin.notes.getState().axes, ...change } }),
  };
  return (
    <div className="mt-1 border-t border-rule pt-1">
      <label className="flex items-center gap-2 py-0.5">
        <input
          type="checkbox"
          className="accent-plum"
          checked={axes.on}
          onChange={() => axes.change({ on: !axes.on })}
        />
        Grid axes and levels
      </label>
      {axes.on && (
        <div className="grid grid-cols-[auto_5rem] items-center gap-x-2 gap-y-1 py-1 pl-6 text-[13px]">
          <Every axis="x" axes={axes} />
          <Every axis="y" axes={axes} />
          <Levels axes={axes} />
        </div>
      )}
    </div>
  );
}

type Kept = Axes & { change: (change: Partial<Axes>) => void };

function Every({ axis, axes }: { axis: "x" | "y"; axes: Kept }) {
  return (
    <label className="contents">
      every, along {axis} (m)
      <input
        type="number"
        min={0}
        step={0.5}
        className="w-20 rounded-sm border border-rule bg-field px-1"
        value={axes[axis]}
        onChange={(e) => axes.change({ [axis]: Math.max(Number(e.target.value) || 0, 0) })}
      />
    </label>
  );
}

function Levels({ axes }: { axes: Kept }) {
  const [text, setText] = useState(axes.levels.join("; "));
  const read = levelsIn(text);
  return (
    <label className="contents">
      levels (m)
      <input
        className={`w-20 rounded-sm border bg-field px-1 ${read ? "border-rule" : "border-brick"}`}
        title={read ? "Heights, parted by semicolons" : "One of these is no number"}
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          const levels = levelsIn(e.target.value);
          if (levels) axes.change({ levels });
        }}
      />
    </label>
  );
}
