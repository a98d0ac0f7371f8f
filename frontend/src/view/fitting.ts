/** Where cameras stand so that a model just fills the view. */
import { type Box3, OrthographicCamera, type PerspectiveCamera, Vector3 } from "three";

export type Camera = PerspectiveCamera | OrthographicCamera;

/** Metres that each of the pixels covers that a camera's picture is high, at a place. */
export function metresAt(camera: Camera, place: Vector3, pixels: number): number {
  if (camera instanceof OrthographicCamera) return (camera.top - camera.bottom) / camera.zoom / pixels;
  const distance = camera.position.distanceTo(place);
  return (2 * distance * Math.tan((camera.fov * Math.PI) / 360)) / pixels;
}

export const cornersOf = (box: Box3) =>
  Array.from(
    { length: 8 },
    (_, k) =>
      new Vector3(
        k & 1 ? box.max.x : box.min.x,
        k & 2 ? box.max.y : box.min.y,
        k & 4 ? box.max.z : box.min.z,
      ),
  );

/** Share of the view below which a model is small in it. */
const SMALL = 0.25;

/** Whether places no longer fit a view: some lie outside it, or all in a small part of it. */
export function isMisfit(camera: Camera, places: readonly Vector3[]): boolean {
  if (!places.length) return false;
  const seen = places.map((p) => p.clone().project(camera));
  const reach = (axis: "x" | "y") => seen.map((p) => p[axis]);
  const sides = [reach("x"), reach("y")];
  if (sides.some((side) => side.some((at) => Math.abs(at) > 1))) return true;
  return sides.every((side) => Math.max(...side) - Math.min(...side) < 2 * SMALL);
}

/** Moves `centre` to the middle of the places as seen, and gives half the height the view must cover. */
export function frameParallel(
  camera: OrthographicCamera,
  places: Vector3[],
  centre: Vector3,
  aspect: number,
  margin: number,
) {
  const [right, up] = [new Vector3(), new Vector3()];
  camera.matrixWorld.extractBasis(right, up, new Vector3());
  const spread = (axis: Vector3): [number, number] => {
    const all = places.map((p) => p.dot(axis));
    return [Math.min(...all), Math.max(...all)];
  };
  const [x0, x1] = spread(right);
  const [y0, y1] = spread(up);
  centre
    .addScaledVector(right, (x0 + x1) / 2 - centre.dot(right))
    .addScaledVector(up, (y0 + y1) / 2 - centre.dot(up));
  return { half: margin * Math.max((y1 - y0) / 2, (x1 - x0) / 2 / aspect, 0.5) };
}

/** Puts a perspective camera where the places just fill the view, and `centre` in their middle as seen. */
export function framePerspective(
  camera: PerspectiveCamera,
  places: Vector3[],
  centre: Vector3,
  away: Vector3,
  aspect: number,
  margin: number,
) {
  const [right, up] = [new Vector3(), new Vector3()];
  camera.matrixWorld.extractBasis(right, up, new Vector3());
  const t = Math.tan((camera.fov * Math.PI) / 360) / margin;
  const d = new Vector3();
  let distance = 1;
  for (let turn = 0; turn < 4; turn++) {
    distance = 1;
    for (const place of places) {
      d.subVectors(place, centre);
      const reach = Math.max(Math.abs(d.dot(up)) / t, Math.abs(d.dot(right)) / (t * aspect));
      distance = Math.max(distance, d.dot(away) + reach);
    }
    let [x0, x1, y0, y1] = [1e9, -1e9, 1e9, -1e9];
    for (const place of places) {
      d.subVectors(place, centre);
      const depth = distance - d.dot(away);
      [x0, x1] = [Math.min(x0, d.dot(right) / depth), Math.max(x1, d.dot(right) / depth)];
      [y0, y1] = [Math.min(y0, d.dot(up) / depth), Math.max(y1, d.dot(up) / depth)];
    }
    centre.addScaledVector(right, ((x0 + x1) / 2) * distance).addScaledVector(up, ((y0 + y1) / 2) * distance);
  }
  camera.position.copy(centre).addScaledVector(away, distance);
}
