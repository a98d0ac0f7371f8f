import {
  type PointerEvent,
  type ReactNode,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
  type WheelEvent,
} from "react";
import { gridStep, type Point, type Sight, type Size, toMetres, toPixels } from "./sheet";

interface Props {
  label: string;
  sight: Sight;
  onSight: (sight: Sight) => void;
  /** Tells whether something was taken hold of. */
  onPress?: (at: Point, e: PointerEvent) => boolean;
  onMove?: (at: Point, e: PointerEvent) => void;
  onLift?: (at: Point, e: PointerEvent) => void;
  onTwice?: () => void;
  crosshair: boolean;
  /** Whether its lengths mean anything: not on a picture as it came. */
  toScale?: boolean;
  children: (draw: { size: Size; px: (p: Point) => Point }) => ReactNode;
}

interface Graduated {
  low: Point;
  high: Point;
  step: number;
  px: (p: Point) => Point;
  size: Size;
}

/** A sheet in metres with a graticule; the wheel scales it, dragging its ground moves it. */
export function Sheet({
  label,
  sight,
  onSight,
  onPress,
  onMove,
  onLift,
  onTwice,
  crosshair,
  toScale = true,
  children,
}: Props) {
  const host = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<Size>({ width: 800, height: 600 });
  const panning = useRef<{ x: number; y: number; sight: Sight } | null>(null);
  useLayoutEffect(() => {
    const measure = () =>
      host.current && setSize({ width: host.current.clientWidth, height: host.current.clientHeight });
    measure();
    const watch = new ResizeObserver(measure);
    if (host.current) watch.observe(host.current);
    return () => watch.disconnect();
  }, []);
  // Wheel events of the page cannot be held back from within React.
  useEffect(() => {
    const stop = (e: Event) => e.preventDefault();
    const element = host.current;
    element?.addEventListener("wheel", stop, { passive: false });
    return () => element?.removeEventListener("wheel", stop);
  }, []);
  const px = (p: Point) => toPixels(sight, size, p);
  const local = (e: { clientX: number; clientY: number }): Point => {
    const box = host.current!.getBoundingClientRect();
    return toMetres(sight, size, [e.clientX - box.left, e.clientY - box.top]);
  };
  const wheel = (e: WheelEvent) => {
    const at = local(e);
    const scale = Math.min(Math.max(sight.metresPerPixel * 1.0015 ** e.deltaY, 1e-5), 100);
    const share = scale / sight.metresPerPixel;
    onSight({
      x: at[0] + (sight.x - at[0]) * share,
      y: at[1] + (sight.y - at[1]) * share,
      metresPerPixel: scale,
    });
  };
  const down = (e: PointerEvent<HTMLDivElement>) => {
    e.currentTarget.setPointerCapture(e.pointerId);
    // What was taken hold of moves; otherwise the sheet does.
    const taken = e.button === 0 && onPress?.(local(e), e);
    if (e.button === 1 || e.button === 2 || (!crosshair && !taken))
      panning.current = { x: e.clientX, y: e.clientY, sight };
  };
  const move = (e: PointerEvent<HTMLDivElement>) => {
    const from = panning.current;
    if (from && e.buttons)
      onSight({
        ...from.sight,
        x: from.sight.x - (e.clientX - from.x) * sight.metresPerPixel,
        y: from.sight.y + (e.clientY - from.y) * sight.metresPerPixel,
      });
    onMove?.(local(e), e);
  };
  const step = gridStep(sight);
  const low = toMetres(sight, size, [0, size.height]);
  const high = toMetres(sight, size, [size.width, 0]);
  const graduated = { low, high, step, px, size };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the sheet is drawn on with a pointer; all it does can be typed beside it
    <div
      ref={host}
      data-testid="sheet"
      className={`relative h-full min-h-0 touch-none select-none overflow-hidden bg-ground ${crosshair ? "cursor-crosshair" : "cursor-grab"}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={(e) => {
        panning.current = null;
        if (e.button === 0) onLift?.(local(e), e);
      }}
      onDoubleClick={onTwice}
      onContextMenu={(e) => e.preventDefault()}
      onWheel={wheel}
    >
      <svg className="absolute inset-0 size-full" role="img" aria-label={label}>
        <Graticule {...graduated} />
        {children({ size, px })}
        {toScale && <Graduation {...graduated} />}
      </svg>
    </div>
  );
}

/** Every multiple of the step along both directions that is in sight, and whether it is a fifth one. */
function marks({ low, high, step, px }: Graduated) {
  return ([0, 1] as const).flatMap((axis) => {
    const first = Math.ceil(low[axis] / step);
    const count = Math.max(Math.floor(high[axis] / step) - first + 1, 0);
    return Array.from({ length: count }, (_, k) => {
      const [x, y] = px(axis === 0 ? [(first + k) * step, 0] : [0, (first + k) * step]);
      return { axis, k: first + k, x, y, strong: (first + k) % 5 === 0 };
    });
  });
}

function Graticule(graduated: Graduated) {
  const { size } = graduated;
  return (
    <g>
      {marks(graduated).map(({ axis, k, x, y, strong }) => (
        <line
          key={`${axis}-${k}`}
          x1={axis === 0 ? x : 0}
          x2={axis === 0 ? x : size.width}
          y1={axis === 0 ? 0 : y}
          y2={axis === 0 ? size.height : y}
          stroke={k === 0 ? "#7d8f96" : strong ? "#a3b5bb" : "#d3dde0"}
          strokeWidth={strong ? 1 : 0.6}
        />
      ))}
    </g>
  );
}

/** The numbers along its edges, legible over whatever lies on the sheet. */
function Graduation(graduated: Graduated) {
  const { size, step } = graduated;
  const free = (axis: number, x: number, y: number) => (axis === 0 ? x > 44 : y < size.height - 24);
  return (
    <g className="pointer-events-none stroke-ground" strokeWidth={3} paintOrder="stroke">
      {marks(graduated)
        .filter(({ axis, x, y, strong }) => strong && free(axis, x, y))
        .map(({ axis, k, x, y }) => (
          <text
            key={`${axis}-${k}`}
            x={axis === 0 ? x + 3 : 6}
            y={axis === 0 ? size.height - 6 : y - 3}
            className="fill-soft font-mono text-[12px]"
          >
            {Number((k * step).toPrecision(6))}
            {k === 0 && axis === 0 ? " m" : ""}
          </text>
        ))}
    </g>
  );
}
