/** Showing some things alone: all others are left out of the picture, and cannot be picked. */
import { type BufferAttribute, type InstancedMesh, Matrix4, type Object3D } from "three";
import { layerNamed } from "../api/catalogue";
import { type Item, parts } from "../state/view";
import type { Viewport } from "./viewport";

/** The numbers of things to be kept of what a layer draws; nothing where all are. */
export type Kept = ReadonlySet<number> | null;

const NOTHING = new Matrix4().makeScale(0, 0, 0);

/** Leaves out the instances of things that are not kept; `things` tells which each is of. */
export function keepInstances(mesh: InstancedMesh, things: (instance: number) => number, kept: Kept) {
  mesh.userData.whole ??= mesh.instanceMatrix.array.slice();
  const whole = mesh.userData.whole as Float32Array;
  const own = new Matrix4();
  for (let k = 0; k < mesh.count; k++)
    mesh.setMatrixAt(k, !kept || kept.has(things(k)) ? own.fromArray(whole, 16 * k) : NOTHING);
  mesh.instanceMatrix.needsUpdate = true;
}

/** Leaves out the triangles, or lines, of things that are not kept, of the places that `whole` names: what lies in a single
 * place is not drawn. */
export function keepPlaces(
  index: BufferAttribute,
  whole: ArrayLike<number>,
  thingAt: (place: number) => number,
  kept: Kept,
) {
  for (let k = 0; k < whole.length; k++)
    index.array[k] = !kept || kept.has(thingAt(whole[k]!)) ? whole[k]! : 0;
  index.needsUpdate = true;
}

/** Numbers of things to be kept, layer by layer, by the names of the layers that are drawn. */
export function keptOf(layers: string[], alone: ReadonlySet<Item>): Map<string, Set<number>> {
  const found = new Map<string, Set<number>>();
  for (const id of alone) {
    const { clause, kind, index } = parts(id);
    for (const name of layers) {
      const [of, layer] = name.split("/") as [string, string];
      if (of !== clause || layerNamed(layer)?.thing !== kind) continue;
      const own = found.get(name) ?? new Set<number>();
      found.set(name, own.add(index));
    }
  }
  return found;
}

const leftOut = new WeakSet<Object3D>();

/** Shows some things alone, or all again. What has no part of its own for each of its things is left out as a whole. */
export function showAlone(view: Viewport, alone: ReadonlySet<Item> | null) {
  const kept = alone && keptOf(view.layerNames(), alone);
  let changed = false;
  for (const name of view.layerNames()) {
    const { object, only } = view.layer(name)!;
    const mine = kept ? (kept.get(name) ?? new Set<number>()) : null;
    const isOut = mine !== null && (mine.size === 0 || !only);
    if (!isOut && (mine || leftOut.has(object))) only?.(mine);
    if (!isOut && !mine && !leftOut.has(object)) continue;
    changed = true;
    object.visible = !isOut;
    if (mine) leftOut.add(object);
    else leftOut.delete(object);
  }
  if (changed) view.draw();
}
