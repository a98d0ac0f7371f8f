import {
  type KeyboardEvent,
  type PointerEvent,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { Box3, type Object3D, Vector3 } from "three";
import { hasThing, layerNamed } from "../api/catalogue";
import { useClauseKinds } from "../api/kinds";
import { useLive, useMargin, useOpened, useView } from "../state/opened";
import { item, type Layer } from "../state/view";
import { largeUnit, useLengths } from "../ui/lengths";
import { showAlone } from "./alone";
import { spreadOut, wholeSpread } from "./apart";
import { axisLines } from "./axes";
import { CutGrip } from "./CutGrip";
import { partLines } from "./creases";
import { outlineOfCut } from "./cutting";
import { measuresOf, takePlace } from "./dimensions";
import { FlightBar } from "./FlightBar";
import { drawGround, type Ground } from "./ground";
import { Handles } from "./Handles";
import { profileLines } from "./handleKinds";
import { LegendBox } from "./LegendBox";
import { type Legend, paint, syncLayers } from "./model";
import { labelOf, labelsToWrite, nextThing, placeOf } from "./naming";
import { drawOverlay, type Measure } from "./overlay";
import { ViewBar } from "./ViewBar";
import type { Viewport } from "./viewport";

/** The ground that lies in each viewport, and what it was laid for. */
const grounds = new WeakMap<Viewport, { object: Object3D; info: Ground; key: string }>();

function layGround(view: Viewport, unit: number) {
  if (view.extent.isEmpty()) return;
  const { min, max } = view.extent;
  const key =
    [min.x, min.y, max.x, max.y].map((c) => Math.round(c / 5)).join() +
    [Math.round(Math.min(min.z, 0) * 10), unit];
  const before = grounds.get(view);
  if (before?.key === key) return;
  if (before) view.scene.remove(before.object);
  const info = drawGround(view.extent, unit);
  grounds.set(view, { object: info.object, info, key });
  view.scene.add(info.object);
  partLines(info.object);
  view.draw();
}

/** By how many things keys walk on. */
const STEPS: Record<string, 1 | -1> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };
/** By how much a pointer may move and still have clicked; a finger is not held as still. */
const CLICK_PIXELS = { mouse: 4, pen: 6, touch: 12 };
const SNAP_PIXELS = 14;

/** The view of the model, with its bar, legend, handles and what is written over it. */
export function View({ handles = true }: { handles?: boolean }) {
  const opened = useOpened();
  const { live, viewing, viewport: view } = opened;
  const host = useRef<HTMLDivElement>(null);
  const overlay = useRef<HTMLCanvasElement>(null);
  const kinds = useClauseKinds();
  const { shown, colourBy, selected, look, cut, spread, tool, lit, pointed, spot, goTo, active, begun } =
    useView();
  const outcomes = useLive((s) => s.outcomes);
  const statement = useLive((s) => s.statement);
  const project = useLive((s) => s.project);
  const moving = useLive((s) => s.moving);
  const [legend, setLegend] = useState<Legend | null>(null);
  const distances = useMargin((m) => m.distances);
  const lengths = useLengths((s) => s.system);
  const axes = useMargin((m) => m.axes);
  const pressed = useRef<{ x: number; y: number } | null>(null);

  useEffect(() => {
    host.current?.append(view.element);
    view.draw();
    return () => view.element.remove();
  }, [view]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: outcomes and statement are what the geometry hangs on
  useLayoutEffect(() => {
    const first = syncLayers(view, live.getState(), shown, colourBy);
    layGround(view, largeUnit(lengths));
    setLegend(paint(view, live.getState(), colourBy, selected, viewing.getState().pointed));
    if (first) view.look(viewing.getState().look);
  }, [view, outcomes, statement, moving, shown, colourBy, selected, lengths]);
  const alone = useView((s) => s.alone);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is drawn anew is left out too
  useLayoutEffect(() => showAlone(view, alone), [view, alone, outcomes, shown, colourBy, moving]);
  useLayoutEffect(() => {
    paint(view, live.getState(), colourBy, selected, pointed);
  }, [view, live, colourBy, selected, pointed]);

  // What comes first is seldom the whole: once all of a project is there, the view is fitted to it.
  const busy = useLive((s) => s.busy);
  const fitted = useRef("");
  useEffect(() => {
    if (busy || !project || !Object.keys(outcomes).length) return;
    if (fitted.current === project) {
      view.follow();
      return;
    }
    fitted.current = project;
    view.look(viewing.getState().look);
  }, [view, viewing, busy, project, outcomes]);
  const wasApart = useRef<string | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is drawn anew is shown apart too
  useLayoutEffect(() => {
    const said = live.getState();
    spreadOut(view, said, spread);
    const by = spread?.by ?? null;
    if (by !== wasApart.current) view.fit(by ? wholeSpread(view, said, by) : undefined);
    wasApart.current = by;
  }, [view, spread, outcomes, shown, colourBy]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a cut follows the model's extent
  useEffect(() => view.cut(cut), [view, cut, outcomes]);
  useEffect(() => view.look(look), [view, look]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was only begun goes with its tool
  useEffect(() => viewing.getState().set({ begun: null }), [tool]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: they are written anew when lengths are read otherwise
  const measured = useMemo((): Measure[] => {
    return measuresOf(distances, begun);
  }, [distances, begun, lengths]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: layers drawn anew are tinted too
  useEffect(() => {
    for (const name of view.layerNames())
      view.tint(view.layer(name)!.object, lit !== null && !pointed.size && name.startsWith(`${lit}/`));
  }, [view, lit, pointed, outcomes]);
  useEffect(() => {
    if (!goTo) return;
    const box = new Box3();
    for (const id of goTo.items.slice(0, 200)) {
      const place = placeOf(live.getState(), id);
      if (place) box.expandByPoint(place);
    }
    if (goTo.at) box.expandByPoint(new Vector3(...goTo.at));
    if (!box.isEmpty()) view.fit(box.expandByScalar(2.5));
  }, [view, live, goTo]);

  const labels = useMemo(
    () => labelsToWrite({ ...live.getState(), outcomes }, shown, selected, alone),
    [live, outcomes, shown, selected, alone],
  );
  const lines = useMemo(() => {
    const entry = handles ? statement?.clauses?.find((c) => c.id === active && !c.off) : undefined;
    const own = profileLines(
      entry,
      kinds.find((k) => k.kind === entry?.kind),
      live.getState().geometry.get(outcomes[entry?.id ?? ""]?.key ?? ""),
    );
    return cut && !view.extent.isEmpty() ? [...own, outlineOfCut(view.extent, cut)] : own;
  }, [view, live, statement, active, kinds, handles, outcomes, cut]);
  useLayoutEffect(() => {
    const write = () =>
      overlay.current &&
      drawOverlay(
        overlay.current,
        view,
        labels,
        lines,
        grounds.get(view)?.info ?? null,
        measured,
        spot,
        axisLines(view.extent, axes, look),
      );
    // Writing anew needs no new picture.
    write();
    return view.listen(write);
  }, [view, labels, lines, measured, spot, axes, look]);

  const local = (e: PointerEvent) => {
    const box = view.element.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top] as const;
  };
  const snapped = useCallback(
    (x: number, y: number): Vector3 | null => {
      let best: Vector3 | null = null;
      let nearest = SNAP_PIXELS;
      const p = new Vector3();
      for (const o of Object.values(live.getState().outcomes)) {
        const data = live.getState().geometry.get(o.key);
        if (!data || !hasThing(data.of, "node")) continue;
        const positions = data.arrays.positions!;
        for (let i = 0; i < positions.length; i += 3) {
          const place = new Vector3(positions[i], positions[i + 1], positions[i + 2]);
          view.project(place, p);
          const away = Math.hypot(p.x - x, p.y - y);
          if (away < nearest && p.z < 1) [best, nearest] = [place, away];
        }
      }
      return best ?? view.pick(x, y)?.point ?? null;
    },
    [view, live],
  );
  const up = (e: PointerEvent) => {
    const from = pressed.current;
    pressed.current = null;
    const still = CLICK_PIXELS[e.pointerType as keyof typeof CLICK_PIXELS] ?? CLICK_PIXELS.mouse;
    if (!from || Math.hypot(e.clientX - from.x, e.clientY - from.y) > still || e.button !== 0) return;
    const [x, y] = local(e);
    if (tool === "measure") {
      const place = snapped(x, y);
      if (place) takePlace(opened, place.toArray());
      return;
    }
    const hit = view.pick(x, y, (name) => Boolean(layerNamed(name.split("/")[1]!)?.thing));
    const add = e.shiftKey || e.ctrlKey || e.metaKey;
    if (!hit) {
      if (!add) viewing.getState().select([]);
      return;
    }
    const [clause, layer] = hit.layer.split("/") as [string, Layer];
    const thing = layerNamed(layer)?.thing;
    if (thing) viewing.getState().select([item(clause, thing, hit.thing)], add);
  };

  const walk = (e: KeyboardEvent) => {
    const step = STEPS[e.key];
    if (!step || e.target !== e.currentTarget) return;
    const next = nextThing(live.getState(), [...selected].at(-1) ?? null, step);
    if (!next) return;
    e.preventDefault();
    viewing.getState().select([next]);
  };
  const only = selected.size === 1 ? [...selected][0]! : null;

  const empty = statement && !(statement.clauses ?? []).length;
  return (
    <div className="flex h-full min-h-0 min-w-0 flex-col">
      <div className="relative min-h-0 grow overflow-hidden bg-ground" data-testid="view">
        <div
          className={`absolute inset-0 ${tool === "measure" ? "[&_canvas]:cursor-crosshair" : ""}`}
          role="group"
          aria-label="The model; arrow keys walk from one thing to the next"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: one walks through the model by keys
          tabIndex={0}
          ref={host}
          onKeyDown={walk}
          onPointerDownCapture={(e) => {
            pressed.current = { x: e.clientX, y: e.clientY };
          }}
          onPointerUpCapture={up}
        />
        <canvas ref={overlay} className="pointer-events-none absolute inset-0 size-full" />
        <p className="sr-only" aria-live="polite">
          {only && labelOf(live.getState(), only)}
        </p>
        {handles && <Handles view={view} kinds={kinds} />}
        {cut && <CutGrip view={view} />}
        {legend && <LegendBox legend={legend} />}
        {tool === "measure" && (
          <p className="absolute top-3 left-3 flex gap-3 rounded-sm bg-leaf/90 px-2 py-1 text-[13px]">
            {begun ? "Click the second place" : "Click two places to measure; nodes are caught"}
            {distances.length > 0 && (
              <button
                type="button"
                className="underline hover:text-plum"
                onClick={() => void opened.margin.note({ distances: [] })}
              >
                Clear {distances.length === 1 ? "the one" : `the ${distances.length}`} that stay
                {distances.length === 1 ? "s" : ""}
              </button>
            )}
          </p>
        )}
        {alone && (
          <p className="absolute bottom-3 left-3 flex gap-3 rounded-sm bg-leaf/90 px-2 py-1 text-[13px]">
            {alone.size === 1 ? "One thing alone" : `${alone.size.toLocaleString("en-GB")} things alone`}
            <button
              type="button"
              className="underline hover:text-plum"
              onClick={() => viewing.getState().set({ alone: null })}
            >
              Show all again
            </button>
          </p>
        )}
        {empty && (
          <p className="absolute inset-x-0 top-1/2 text-center font-serif text-lg text-soft">
            Nothing to see yet: add a shape at the left.
          </p>
        )}
      </div>
      {handles && <FlightBar view={view} />}
      <ViewBar view={view} narrow={!handles} />
    </div>
  );
}
