import { useEffect, useMemo, useRef } from "react";
import { useLive, useOpened, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { flights, fly, wholeFlight } from "./flight";
import type { Viewport } from "./viewport";

const FLIGHT_MS = 2600;
const STEP_MS = 450;
const WAYS = (x: number, y: number, z: number) =>
  x === 0 && y === 0 && z === 0
    ? "stood up"
    : z < -0.9
      ? "from above"
      : z > 0.9
        ? "from below"
        : "from the side";

/** Parts fly between their places and their sheets, or are put together one by one in an order that works. */
export function FlightBar({ view }: { view: Viewport }) {
  const { live } = useOpened();
  const outcomes = useLive((s) => s.outcomes);
  const shown = useView((s) => s.shown);
  const { apart, together, set } = useView();
  // biome-ignore lint/correctness/useExhaustiveDependencies: outcomes are what the geometry hangs on
  const all = useMemo(() => flights(live.getState()), [outcomes]);
  const playing = useRef<number>(0);
  const away = useRef(false);
  useEffect(() => () => cancelAnimationFrame(playing.current), []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: parts drawn anew are carried too
  useEffect(() => {
    fly(view, live.getState(), apart, together);
    if (apart > 0 !== away.current) {
      away.current = apart > 0;
      view.fit(away.current ? wholeFlight(view, live.getState()) : undefined);
    }
  }, [view, apart, together, outcomes, shown]);
  if (!all.length) return null;

  const { parts } = all[0]!;
  const order = Array.from(parts.shown.arrays.order ?? []);
  const play = (ms: number, frame: (share: number) => void) => {
    cancelAnimationFrame(playing.current);
    const began = performance.now();
    const next = () => {
      const share = Math.min((performance.now() - began) / ms, 1);
      frame(share);
      if (share < 1) playing.current = requestAnimationFrame(next);
    };
    playing.current = requestAnimationFrame(next);
  };
  const flyTo = (end: number) => {
    set({ together: null });
    play(FLIGHT_MS, (share) => set({ apart: apart + (end - apart) * share }));
  };
  const putTogether = () => {
    set({ apart: 0 });
    play(STEP_MS * order.length, (share) => set({ together: share < 1 ? share * order.length : null }));
  };
  const n = together === null ? null : Math.min(Math.ceil(together), order.length);
  const ways = parts.shown.arrays.ways;
  const words =
    n === null || n === 0
      ? ""
      : `${n} of ${order.length}: ${parts.shown.meta.labels?.[order[n - 1]!] ?? ""} ${WAYS(ways![3 * n - 3]!, ways![3 * n - 2]!, ways![3 * n - 1]!)}`;
  return (
    <div
      className="flex items-center gap-3 border-rule border-t bg-leaf px-2 py-1 text-[13px]"
      data-testid="flight"
    >
      <Button className="!py-0.5" onClick={() => flyTo(apart > 0.5 ? 0 : 1)}>
        {apart > 0.5 ? "Fly back" : "Fly to sheets"}
      </Button>
      <input
        type="range"
        className="w-20 accent-plum"
        aria-label="Parts between their places and their sheets"
        min={0}
        max={1}
        step={0.01}
        value={apart}
        onChange={(e) => {
          cancelAnimationFrame(playing.current);
          set({ apart: Number(e.target.value), together: null });
        }}
      />
      <span className="h-4 w-px bg-rule" />
      <Button className="!py-0.5" disabled={!order.length} onClick={putTogether}>
        Put together
      </Button>
      <input
        type="range"
        className="w-20 accent-plum"
        aria-label="Parts put together"
        min={0}
        max={order.length}
        step={0.1}
        value={together ?? order.length}
        onChange={(e) => {
          cancelAnimationFrame(playing.current);
          const value = Number(e.target.value);
          set({ apart: 0, together: value >= order.length ? null : value });
        }}
      />
      <span className="min-w-0 truncate text-soft" data-testid="flight-step">
        {words || (apart > 0 ? "" : order.length === 1 ? "1 part" : `${order.length} parts`)}
      </span>
    </div>
  );
}
