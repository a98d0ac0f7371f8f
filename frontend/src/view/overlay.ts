/** What is written over the picture: labels, metric ticks, scale bar and a measured distance. */
import { Vector3 } from "three";
import { largeText, largeUnit } from "../ui/lengths";
import { figureText } from "../ui/text";
import type { AxisLine } from "./axes";
import type { Ground } from "./ground";
import { PALETTE } from "./palette";
import type { Viewport } from "./viewport";

export interface Label {
  text: string;
  place: Vector3;
  strong?: boolean;
}

/** A distance in the view, whose second place is perhaps still to come. */
export interface Measure {
  from: Vector3;
  to: Vector3 | null;
}

const FONT = "12px 'JetBrains Mono Variable', monospace";
const CELL = 8;
/** Pixels that lines of text are high, and that numbers on one line are apart. */
const LINE = 14;
const GAP = 8;

export function drawOverlay(
  canvas: HTMLCanvasElement,
  view: Viewport,
  labels: Label[],
  lines: Vector3[][],
  ground: Ground | null,
  measured: Measure[],
  spot: [number, number, number] | null,
  axes: AxisLine[],
) {
  const scale = Math.min(window.devicePixelRatio, 2);
  const [w, h] = [view.size.x, view.size.y];
  if (canvas.width !== Math.round(w * scale) || canvas.height !== Math.round(h * scale)) {
    canvas.width = Math.round(w * scale);
    canvas.height = Math.round(h * scale);
  }
  const pen = canvas.getContext("2d");
  if (!pen) return;
  pen.setTransform(scale, 0, 0, scale, 0, 0);
  pen.clearRect(0, 0, w, h);
  pen.textBaseline = "middle";
  if (view.isParallel) edgeTicks(pen, view);
  else if (ground) groundTicks(pen, view, ground);
  for (const axis of axes) drawAxis(pen, view, axis);
  profileLines(pen, view, lines);
  writeLabels(pen, view, labels);
  for (const measure of measured) writeMeasure(pen, view, measure);
  if (spot) ringAbout(pen, view.project(new Vector3(...spot)));
}

const BUBBLE = 10;

/** A grid axis with its name in a ring, or a level with its height over a mark. */
function drawAxis(pen: CanvasRenderingContext2D, view: Viewport, { from, to, name, isLevel }: AxisLine) {
  const a = view.project(from).clone();
  const b = view.project(to).clone();
  if (a.z > 1 || b.z > 1) return;
  pen.strokeStyle = PALETTE.axis;
  pen.fillStyle = PALETTE.axis;
  pen.lineWidth = 1;
  pen.setLineDash([14, 4, 2, 4]);
  pen.beginPath();
  pen.moveTo(a.x, a.y);
  pen.lineTo(b.x, b.y);
  pen.stroke();
  pen.setLineDash([]);
  pen.font = FONT;
  if (isLevel) {
    // What reaches beyond the picture is told at its edge.
    const x = Math.min(a.x, view.size.x - 8);
    pen.textAlign = "right";
    pen.fillText(name, x, a.y - 14);
    pen.beginPath();
    pen.moveTo(x - 16, a.y - 7);
    pen.lineTo(x - 8, a.y - 7);
    pen.lineTo(x - 12, a.y);
    pen.fill();
    return;
  }
  const long = Math.hypot(a.x - b.x, a.y - b.y) || 1;
  const [x, y] = [a.x + ((a.x - b.x) / long) * BUBBLE, a.y + ((a.y - b.y) / long) * BUBBLE];
  pen.beginPath();
  pen.arc(x, y, BUBBLE, 0, 2 * Math.PI);
  pen.stroke();
  pen.textAlign = "center";
  pen.fillText(name, x, y + 0.5);
}

/** A ring about the place that something tells of. */
function ringAbout(pen: CanvasRenderingContext2D, p: Vector3) {
  if (p.z > 1) return;
  for (const [radius, width, colour] of [
    [13, 5, "rgba(253,250,242,.8)"],
    [13, 2.5, PALETTE.plum],
  ] as const) {
    pen.beginPath();
    pen.arc(p.x, p.y, radius, 0, 2 * Math.PI);
    pen.lineWidth = width;
    pen.strokeStyle = colour;
    pen.stroke();
  }
}

function profileLines(pen: CanvasRenderingContext2D, view: Viewport, lines: Vector3[][]) {
  pen.strokeStyle = PALETTE.plum;
  pen.lineWidth = 1.2;
  pen.setLineDash([5, 4]);
  for (const line of lines) {
    pen.beginPath();
    for (const [i, place] of line.entries()) {
      const p = view.project(place);
      if (i) pen.lineTo(p.x, p.y);
      else pen.moveTo(p.x, p.y);
    }
    pen.stroke();
  }
  pen.setLineDash([]);
}

function writeLabels(pen: CanvasRenderingContext2D, view: Viewport, labels: Label[]) {
  pen.font = FONT;
  pen.textAlign = "center";
  const taken = new Set<number>();
  const p = new Vector3();
  const sorted = [...labels].sort((a, b) => Number(b.strong ?? false) - Number(a.strong ?? false));
  for (const label of sorted) {
    view.project(label.place, p);
    if (p.z > 1 || p.x < 0 || p.y < 0 || p.x > view.size.x || p.y > view.size.y) continue;
    const half = label.text.length * 3.7 + 2;
    const cells: number[] = [];
    // A label claims the cells it touches with some room around it.
    for (let y = Math.floor((p.y - 12) / CELL); y <= Math.floor((p.y + 12) / CELL); y++)
      for (let x = Math.floor((p.x - half - 6) / CELL); x <= Math.floor((p.x + half + 6) / CELL); x++)
        cells.push(y * 10_000 + x);
    if (cells.some((c) => taken.has(c))) continue;
    for (const c of cells) taken.add(c);
    pen.fillStyle = label.strong ? "rgba(240,223,232,.95)" : "rgba(253,250,242,.85)";
    pen.fillRect(p.x - half, p.y - 8, 2 * half, 16);
    pen.fillStyle = label.strong ? PALETTE.plum : PALETTE.ink;
    pen.fillText(label.text, p.x, p.y + 0.5);
  }
}

/** A round length (m) near `metres`: 1, 2 or 5 times a power of ten of the units that lengths are counted in. */
export function roundLength(metres: number): number {
  const units = metres / largeUnit();
  const power = 10 ** Math.floor(Math.log10(units));
  const share = units / power;
  return power * (share >= 5 ? 5 : share >= 2 ? 2 : 1) * largeUnit();
}

/** Ticks along the lower and left edge, and a scale bar, where the scale is the same all over. */
function edgeTicks(pen: CanvasRenderingContext2D, view: Viewport) {
  const scale = view.metresPerPixel;
  const step = roundLength(scale * 90);
  const [right, up] = [new Vector3(), new Vector3()];
  view.camera.matrixWorld.extractBasis(right, up, new Vector3());
  const middle = view.controls.target;
  pen.font = FONT;
  pen.strokeStyle = PALETTE.graticuleStrong;
  pen.fillStyle = "#5d6079";
  pen.lineWidth = 1;
  for (const horizontal of [true, false]) {
    const direction = horizontal ? right : up;
    const origin = middle.dot(direction);
    const half = ((horizontal ? view.size.x : view.size.y) / 2) * scale;
    for (let c = Math.ceil((origin - half) / step) * step; c <= origin + half; c += step) {
      const offset = (c - origin) / scale;
      pen.beginPath();
      if (horizontal) {
        const x = view.size.x / 2 + offset;
        pen.moveTo(x, view.size.y);
        pen.lineTo(x, view.size.y - 8);
        pen.textAlign = "center";
        if (x > 60 && x < view.size.x - 30)
          pen.fillText(largeText(Math.round(c / step) * step), x, view.size.y - 16);
      } else {
        const y = view.size.y / 2 - offset;
        pen.moveTo(0, y);
        pen.lineTo(8, y);
        pen.textAlign = "left";
        if (y > 60 && y < view.size.y - 40) pen.fillText(largeText(Math.round(c / step) * step), 11, y);
      }
      pen.stroke();
    }
  }
  const length = roundLength(scale * 140);
  const x = view.size.x - 24;
  const y = view.size.y - 36;
  pen.fillStyle = PALETTE.ink;
  pen.fillRect(x - length / scale, y, length / scale, 3);
  pen.fillRect(x - length / scale, y - 4, 1.5, 11);
  pen.fillRect(x - 1.5, y - 4, 1.5, 11);
  pen.textAlign = "right";
  pen.fillText(largeText(length), x, y - 12);
}

/** Where the middle of a text is, and half of how wide it is, in pixels. */
interface Written {
  x: number;
  y: number;
  half: number;
}

/** Whether a text keeps clear of others. */
export const hasRoom = (own: Written, others: readonly Written[]): boolean =>
  others.every((o) => Math.abs(o.y - own.y) > LINE || Math.abs(o.x - own.x) > o.half + own.half + GAP);

function groundTicks(pen: CanvasRenderingContext2D, view: Viewport, g: Ground) {
  pen.font = FONT;
  pen.fillStyle = "#5d6079";
  pen.textAlign = "center";
  const place = new Vector3();
  const near = view.camera.position;
  const y = Math.abs(near.y - g.low[1]) < Math.abs(near.y - g.high[1]) ? g.low[1] : g.high[1];
  const x = Math.abs(near.x - g.low[0]) < Math.abs(near.x - g.high[0]) ? g.low[0] : g.high[0];
  const written: Written[] = [];
  const write = (text: string) => {
    const p = view.project(place);
    if (p.z >= 1 || p.x <= 10 || p.y <= 10 || p.x >= view.size.x - 10 || p.y >= view.size.y - 10) return;
    const own = { x: p.x, y: p.y, half: pen.measureText(text).width / 2 };
    if (!hasRoom(own, written)) return;
    written.push(own);
    pen.fillText(text, p.x, p.y);
  };
  const out = g.step * 0.22;
  for (let c = g.low[0]; c < g.high[0] - 1e-6; c += g.step) {
    place.set(c, y + (y === g.low[1] ? -out : out), g.z);
    write(largeText(c));
  }
  for (let c = g.low[1]; c < g.high[1] - 1e-6; c += g.step) {
    place.set(x + (x === g.low[0] ? -out : out), c, g.z);
    write(largeText(c));
  }
}

function writeMeasure(pen: CanvasRenderingContext2D, view: Viewport, measure: Measure) {
  const a = view.project(measure.from).clone();
  pen.strokeStyle = PALETTE.plum;
  pen.fillStyle = PALETTE.plum;
  pen.lineWidth = 2;
  const dot = (p: Vector3) => {
    pen.beginPath();
    pen.arc(p.x, p.y, 4, 0, 2 * Math.PI);
    pen.fill();
  };
  dot(a);
  if (!measure.to) return;
  const b = view.project(measure.to).clone();
  dot(b);
  pen.beginPath();
  pen.moveTo(a.x, a.y);
  pen.lineTo(b.x, b.y);
  pen.stroke();
  const d = measure.to.clone().sub(measure.from);
  const told = (value: number) => figureText(value, "m", 3);
  const text = `${told(d.length())}   Δx ${told(d.x)}  Δy ${told(d.y)}  Δz ${told(d.z)}`;
  pen.font = FONT;
  pen.textAlign = "center";
  const [x, y] = [(a.x + b.x) / 2, (a.y + b.y) / 2 - 16];
  pen.fillStyle = "rgba(253,250,242,.95)";
  pen.fillRect(x - text.length * 3.8, y - 10, text.length * 7.6, 20);
  pen.fillStyle = PALETTE.plum;
  pen.fillText(text, x, y);
}
