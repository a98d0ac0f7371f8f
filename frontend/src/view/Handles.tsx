import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from "react";
import { Plane, Vector3 } from "three";
import type { ClauseKind } from "../api/client";
import { useLive, useOpened, useView } from "../state/opened";
import { nearestOnLine } from "./cutting";
import { type Handle, handlesOf, placeText, round } from "./handleKinds";
import type { Viewport } from "./viewport";

/** Where a pointer's ray meets the plane or comes nearest to the line a handle moves in. */
function follow(
  view: Viewport,
  x: number,
  y: number,
  h: Handle,
  from: Vector3,
  alt: boolean,
): Vector3 | null {
  const { ray } = view.ray(x, y);
  const line = h.line ?? (alt ? h.normal : undefined);
  if (line) return nearestOnLine(ray, from, line);
  let normal = h.normal ?? ray.direction;
  if (Math.abs(normal.dot(ray.direction)) < 0.12) normal = ray.direction.clone();
  return ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(normal, from), new Vector3());
}

const MOST_HANDLES = 400;

/** Handles of the clause at hand, over the view. They can be dragged, or moved with the arrow keys. */
export function Handles({ view, kinds }: { view: Viewport; kinds: ClauseKind[] }) {
  const { live, channel } = useOpened();
  const active = useView((s) => s.active);
  const entry = useLive((s) => s.statement?.clauses?.find((c) => c.id === active && !c.off));
  const kind = kinds.find((k) => k.kind === entry?.kind);
  const shownKey = useLive((s) => (active ? s.outcomes[active]?.key : undefined));
  const shown = live.getState().geometry.get(shownKey ?? "");
  const handles = useMemo(
    () => (entry && kind ? handlesOf(entry, kind, shown).slice(0, MOST_HANDLES) : []),
    [entry, kind, shown],
  );
  const pointedValue = useView((s) => s.pointedValue);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  // biome-ignore lint/correctness/useExhaustiveDependencies: another clause has other handles
  useEffect(() => setPicked(new Set()), [active]);
  const buttons = useRef(new Map<string, HTMLButtonElement>());
  const [tip, setTip] = useState<{ id: string; text: string } | null>(null);
  const drag = useRef<{ handle: Handle; offset: Vector3; at: Vector3; moved: boolean } | null>(null);

  const place = useRef(() => {});
  useEffect(() => {
    place.current = () => {
      const p = new Vector3();
      for (const h of handles) {
        const button = buttons.current.get(h.id);
        if (!button) continue;
        view.project(drag.current?.handle.id === h.id ? drag.current.at : h.place, p);
        button.style.transform = `translate(${p.x}px, ${p.y}px)`;
        button.style.visibility =
          p.z < 1 && p.x > 0 && p.y > 0 && p.x < view.size.x && p.y < view.size.y ? "visible" : "hidden";
      }
    };
    place.current();
    return view.listen(() => place.current());
  }, [handles, view]);

  if (!entry) return null;
  /** What moving a handle means; one of several that are picked takes the others along. */
  const change = (h: Handle, to: Vector3) => {
    if (!h.together || !picked.has(h.id) || picked.size < 2) return h.moved(to);
    const indices = handles.filter((o) => o.together && picked.has(o.id)).map((o) => o.together!.index);
    return h.together.by(indices, to.clone().sub(h.place));
  };
  const preview = (h: Handle, to: Vector3) =>
    channel.preview({ op: "set", clause: entry.id, ...change(h, to) });
  const commit = (h: Handle, to: Vector3) => channel.edit({ op: "set", clause: entry.id, ...change(h, to) });
  const local = (e: PointerEvent) => {
    const box = view.element.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top] as const;
  };
  const down = (e: PointerEvent<HTMLButtonElement>, handle: Handle) => {
    if (e.button !== 0) return;
    if (e.shiftKey && handle.together) {
      const next = new Set(picked);
      if (!next.delete(handle.id)) next.add(handle.id);
      setPicked(next);
      return;
    }
    e.currentTarget.setPointerCapture(e.pointerId);
    const grabbed = follow(view, ...local(e), handle, handle.place, e.altKey) ?? handle.place;
    drag.current = {
      handle,
      offset: handle.place.clone().sub(grabbed),
      at: handle.place.clone(),
      moved: false,
    };
  };
  const move = (e: PointerEvent) => {
    const d = drag.current;
    if (!d) return;
    const to = follow(view, ...local(e), d.handle, d.handle.place, e.altKey);
    if (!to) return;
    to.add(d.offset);
    if (!d.moved && to.distanceTo(d.at) < 2 * view.metresPerPixel) return;
    d.moved = true;
    d.at = new Vector3(round(to.x), round(to.y), round(to.z));
    setTip({ id: d.handle.id, text: d.handle.tip(d.at) });
    preview(d.handle, d.at);
    place.current();
  };
  const end = async () => {
    const d = drag.current;
    setTip(null);
    if (d?.moved) await commit(d.handle, d.at);
    drag.current = null;
    view.draw();
  };
  const key = (e: KeyboardEvent, h: Handle) => {
    if (e.key === "Escape" && drag.current) {
      drag.current = null;
      setTip(null);
      channel.settle();
      view.draw();
      return;
    }
    const size = e.shiftKey ? 0.01 : 0.1;
    const steps: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, 1],
      ArrowDown: [0, -1],
    };
    const s = steps[e.key];
    if (!s) return;
    e.preventDefault();
    if (h.nudged) return void channel.edit({ op: "set", clause: entry.id, ...h.nudged(s[0] + s[1]) });
    const to = h.place.clone();
    if (h.line) to.addScaledVector(h.line, (s[0] + s[1]) * size);
    else if (e.altKey && h.normal) to.addScaledVector(h.normal, (s[0] + s[1]) * size);
    else {
      const [across, up] = inPlane(h.normal ?? new Vector3(0, 0, 1));
      to.addScaledVector(across, s[0] * size).addScaledVector(up, s[1] * size);
    }
    void commit(h, to);
  };
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden">
      {handles.map((h) => (
        <button
          key={h.id}
          ref={(b) => {
            if (b) buttons.current.set(h.id, b);
            else buttons.current.delete(h.id);
          }}
          type="button"
          data-handle={h.id}
          aria-label={`${h.label}: ${placeText(h.place)}. Arrow keys move it.`}
          aria-pressed={h.together ? picked.has(h.id) : undefined}
          title={`${h.label}\n${placeText(h.place)}${h.normal ? "\nAlt: out of its plane" : ""}${h.together ? "\nShift click: pick several to move together" : ""}`}
          className="group pointer-events-auto absolute top-0 left-0 -mt-2.5 -ml-2.5 flex size-5 touch-none items-center justify-center !outline-offset-0"
          onPointerDown={(e) => down(e, h)}
          onPointerMove={move}
          onPointerUp={() => void end()}
          onPointerCancel={() => void end()}
          onKeyDown={(e) => key(e, h)}
        >
          <span
            data-lit={isOf(h, entry.id, pointedValue) || undefined}
            className={`block border-2 border-plum group-hover:bg-plum data-lit:scale-150 data-lit:bg-plum ${picked.has(h.id) ? "bg-plum" : "bg-leaf"} ${h.square ? "size-2.5" : "size-3 rounded-full"}`}
          />
          {tip?.id === h.id && (
            <span className="floating absolute bottom-6 px-2 py-0.5 text-xs whitespace-nowrap">
              {tip.text}
            </span>
          )}
        </button>
      ))}
    </div>
  );
}

/** Whether a handle is of the value that is pointed at. */
const isOf = (handle: Handle, clause: string, value: string | null) =>
  value !== null && value === `${clause}/${handle.moved(handle.place).name}`;

/** Two directions in a plane: one level, one as upright as can be. */
function inPlane(normal: Vector3): [Vector3, Vector3] {
  if (Math.abs(normal.z) > 0.99) return [new Vector3(1, 0, 0), new Vector3(0, 1, 0)];
  const across = new Vector3(0, 0, 1).cross(normal).normalize();
  if (across.x < 0 || (Math.abs(across.x) < 1e-9 && across.y < 0)) across.negate();
  const up = new Vector3().crossVectors(normal, across).normalize();
  return [across, up.z < 0 ? up.negate() : up];
}
