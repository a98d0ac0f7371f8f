/** The section cut: where its plane lies, and how it follows a pointer. */
import { type Box3, type Ray, Vector3 } from "three";

export type Axis = "x" | "y" | "z";

export interface Cut {
  axis: Axis;
  /** Of the model's extent along the axis. */
  share: number;
}

/** The place of a cut along its axis, in metres. */
export const placeOfCut = (box: Box3, { axis, share }: Cut): number =>
  box.min[axis] + share * (box.max[axis] - box.min[axis]);

/** The rectangle in which a cut's plane goes through a box, closed. */
export function outlineOfCut(box: Box3, cut: Cut): Vector3[] {
  const [a, b] = (["x", "y", "z"] as const).filter((axis) => axis !== cut.axis) as [Axis, Axis];
  const place = placeOfCut(box, cut);
  const corner = (u: "min" | "max", v: "min" | "max") => {
    const p = new Vector3();
    p[cut.axis] = place;
    p[a] = box[u][a];
    p[b] = box[v][b];
    return p;
  };
  const first = corner("min", "min");
  return [first, corner("max", "min"), corner("max", "max"), corner("min", "max"), first.clone()];
}

/** Where its plane is taken hold of: the middle of its upper edge, or of its front one where it lies level. */
export function gripOfCut(box: Box3, cut: Cut): Vector3 {
  const [front, beside, above, opposite] = outlineOfCut(box, cut) as [Vector3, Vector3, Vector3, Vector3];
  const [from, to] = cut.axis === "z" ? [front, beside] : [above, opposite];
  return from.clone().add(to).multiplyScalar(0.5);
}

/** The place on a line through `from` that is nearest to a ray; nothing where both run the same way. */
export function nearestOnLine(ray: Ray, from: Vector3, way: Vector3): Vector3 | null {
  const w = from.clone().sub(ray.origin);
  const b = way.dot(ray.direction);
  const scale = 1 - b * b;
  if (scale < 1e-4) return null;
  return from.clone().addScaledVector(way, (b * ray.direction.dot(w) - way.dot(w)) / scale);
}

/** The share of a box along an axis at which a place lies, within it. */
export function shareAt(box: Box3, axis: Axis, place: Vector3): number {
  const long = box.max[axis] - box.min[axis];
  return long > 0 ? Math.min(1, Math.max(0, (place[axis] - box.min[axis]) / long)) : 0.5;
}
