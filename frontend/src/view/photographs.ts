/** Pictures to keep: of a whole model or as it is seen, drawn beside what the screen shows. */
import { type PerspectiveCamera, Vector3, type WebGLRenderer, WebGLRenderTarget } from "three";
import { type Camera, framePerspective, metresAt } from "./fitting";
import { SMOOTH, Smoothing } from "./smoothing";
import type { Stage } from "./stage";
import { asOnScreen } from "./targets";

/** Room around a model of which a picture is taken as a whole. */
const MARGIN = 1.15;
/** Pixels a side beyond which creases are no better. */
const CREASED = 1200;

export interface Shot {
  camera: Camera;
  /** What the picture is of the middle of (m). */
  middle: Vector3;
  /** The colour behind it. */
  ground: string;
  /** Pixels. */
  width: number;
  height: number;
}

/** A camera like another, from which all places of a model are seen in a direction. */
export function cameraOnto(
  stage: Stage,
  places: Vector3[],
  like: PerspectiveCamera,
  from: Vector3,
  aspect: number,
) {
  const camera = like.clone();
  camera.aspect = aspect;
  camera.updateProjectionMatrix();
  const away = from.clone().normalize();
  const middle = stage.extent.getCenter(new Vector3());
  camera.position.copy(middle).add(away);
  camera.lookAt(middle);
  camera.updateMatrixWorld();
  framePerspective(camera, places, middle, away, aspect, MARGIN);
  camera.lookAt(middle);
  return { camera, middle };
}

/** A picture as fine as any, with a shadow but in parallel looks. The screen stays as it was. */
export function photographed(
  stage: Stage,
  { camera, middle, ground, width, height }: Shot,
): HTMLCanvasElement {
  const { renderer } = stage;
  const print = asOnScreen(new WebGLRenderTarget(width, height));
  const smoothing = new Smoothing();
  stage.prepare(camera, middle);
  stage.castShadow();
  renderer.setClearColor(ground);
  smoothing.begin(stage, camera, SMOOTH * width, SMOOTH * height)(SMOOTH * height);
  smoothing.lay(renderer, print);
  if (!stage.extent.isEmpty()) {
    const [wide, high] = creased(width, height);
    const next = stage.beginCreases(camera, wide, high, metresAt(camera, middle, high));
    while (!next(high));
    stage.layCreases(print);
  }
  stage.onGround();
  const canvas = printed(renderer, print);
  smoothing.dispose();
  print.dispose();
  return canvas;
}

/** How large creases are worked out for a picture: they are soft, and as wide in a large one as they are on a screen. */
export function creased(width: number, height: number): [number, number] {
  const share = Math.min(1, CREASED / Math.max(width, height));
  return [Math.round(width * share), Math.round(height * share)];
}

/** What was drawn into a target, on paper. */
function printed(renderer: WebGLRenderer, print: WebGLRenderTarget): HTMLCanvasElement {
  const { width, height } = print;
  const pixels = new Uint8Array(4 * width * height);
  renderer.readRenderTargetPixels(print, 0, 0, width, height, pixels);
  const canvas = document.createElement("canvas");
  Object.assign(canvas, { width, height });
  canvas.getContext("2d")?.putImageData(new ImageData(upright(pixels, width), width), 0, 0);
  return canvas;
}

/** Pixels of which the lowest row came first with the highest first, and nothing to be seen through. */
export function upright(pixels: Uint8Array, width: number): Uint8ClampedArray<ArrayBuffer> {
  const row = 4 * width;
  const out = new Uint8ClampedArray(pixels.length);
  for (let from = 0; from < pixels.length; from += row)
    out.set(pixels.subarray(from, from + row), pixels.length - row - from);
  for (let alpha = 3; alpha < out.length; alpha += 4) out[alpha] = 255;
  return out;
}
