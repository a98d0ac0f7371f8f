/** A film of the model as it turns once. */
import { Spherical, Vector3 } from "three";
import type { Viewport } from "./viewport";

const SECONDS = 8;
const FRAMES = 24;
/** Kinds of films, the first that a browser makes is taken. */
const KINDS = ["video/webm;codecs=vp9", "video/webm", "video/mp4"];

/** From where the model is seen when it has turned by a share of a whole turn about the upright axis through `target`. */
export function turnedBy(position: Vector3, target: Vector3, share: number): Vector3 {
  // Spherical takes y as up.
  const away = position.clone().sub(target);
  const at = new Spherical().setFromVector3(new Vector3(away.y, away.z, away.x));
  at.theta += share * 2 * Math.PI;
  const turned = new Vector3().setFromSpherical(at);
  return new Vector3(turned.z, turned.x, turned.y).add(target);
}

/** Whether this browser can make films. */
export const canFilm = () =>
  typeof MediaRecorder !== "undefined" && KINDS.some((kind) => MediaRecorder.isTypeSupported(kind));

/** Films one turn of the model and comes back to where it was seen from; hears how far it has got. */
export async function filmTurn(view: Viewport, progress: (share: number) => void): Promise<Blob> {
  const kind = KINDS.find((k) => MediaRecorder.isTypeSupported(k));
  const stand = view.stand;
  const [position, target] = [new Vector3(...stand.position), new Vector3(...stand.target)];
  const canvas = view.element.querySelector("canvas")!;
  const recorder = new MediaRecorder(canvas.captureStream(FRAMES), { mimeType: kind });
  const parts: Blob[] = [];
  recorder.ondataavailable = (e) => parts.push(e.data);
  const stopped = new Promise((resolve) => {
    recorder.onstop = resolve;
  });
  recorder.start();
  const begun = performance.now();
  for (let share = 0; share < 1; share = (performance.now() - begun) / (1000 * SECONDS)) {
    view.standAt({ ...stand, position: turnedBy(position, target, share).toArray() });
    progress(share);
    await new Promise(requestAnimationFrame);
  }
  recorder.stop();
  await stopped;
  view.standAt(stand);
  return new Blob(parts, { type: kind });
}
