import { type KeyboardEvent, type PointerEvent, useEffect, useRef } from "react";
import { Vector3 } from "three";
import { useView } from "../state/opened";
import { useLengths } from "../ui/lengths";
import { figureText } from "../ui/text";
import { gripOfCut, nearestOnLine, placeOfCut, shareAt } from "./cutting";
import type { Viewport } from "./viewport";

const WAYS = { x: new Vector3(1, 0, 0), y: new Vector3(0, 1, 0), z: new Vector3(0, 0, 1) };
/** By how much of the model arrow keys move the cut. */
const STEP = 0.01;

/** The grip by which the plane of a cut is dragged through the model. */
export function CutGrip({ view }: { view: Viewport }) {
  const cut = useView((s) => s.cut);
  const set = useView((s) => s.set);
  useLengths();
  const grip = useRef<HTMLButtonElement>(null);
  const held = useRef<Vector3 | null>(null);
  useEffect(() => {
    const place = () => {
      if (!cut || !grip.current || view.extent.isEmpty()) return;
      const p = view.project(gripOfCut(view.extent, cut));
      const { x, y } = view.size;
      grip.current.style.transform = `translate(${p.x}px, ${p.y}px)`;
      grip.current.style.visibility =
        p.z < 1 && p.x > 0 && p.y > 0 && p.x < x && p.y < y ? "visible" : "hidden";
    };
    place();
    return view.listen(place);
  }, [view, cut]);
  if (!cut) return null;
  const { axis, share } = cut;
  const to = (next: number) => set({ cut: { axis, share: Math.min(1, Math.max(0, next)) } });
  const under = (e: PointerEvent) => {
    const box = view.element.getBoundingClientRect();
    const { ray } = view.ray(e.clientX - box.left, e.clientY - box.top);
    return nearestOnLine(ray, gripOfCut(view.extent, cut), WAYS[axis]);
  };
  const move = (e: PointerEvent) => {
    const place = held.current && under(e);
    if (place) to(shareAt(view.extent, axis, place.add(held.current!)));
  };
  const key = (e: KeyboardEvent) => {
    const sign = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[e.key];
    if (e.key === "Escape") set({ cut: null });
    if (!sign) return;
    e.preventDefault();
    to(share + sign * STEP);
  };
  const text = `${axis} ${figureText(placeOfCut(view.extent, cut), "m", 2)}`;
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden">
      <button
        ref={grip}
        type="button"
        aria-label={`The cut at ${text}. Arrow keys move it, Escape takes it away.`}
        data-testid="grip of the cut"
        className="pointer-events-auto absolute top-0 left-0 -mt-3 -ml-10 w-20 cursor-grab touch-none rounded-sm border border-plum bg-leaf py-0.5 text-center text-xs whitespace-nowrap text-plum shadow-sm active:cursor-grabbing"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          const place = under(e);
          held.current = place && gripOfCut(view.extent, cut).sub(place);
        }}
        onPointerMove={move}
        onPointerUp={() => {
          held.current = null;
        }}
        onKeyDown={key}
      >
        {text}
      </button>
    </div>
  );
}
