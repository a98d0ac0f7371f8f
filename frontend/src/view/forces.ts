/** Forces of a settled net: its edges as bars and what its holds give as arrows. */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  ConeGeometry,
  CylinderGeometry,
  Group,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  MeshLambertMaterial,
  Quaternion,
  Vector3,
} from "three";
import type { Shown } from "../live/decode";
import { at, type Drawn } from "./layers";
import { PALETTE } from "./palette";

const UP = new Vector3(0, 1, 0);
/** Bars of the largest force are so thick, against the usual edge. */
const THICK = 0.16;
const THIN = 0.12;
/** What is pressed is drawn in so many pieces, of which each fills a share of its place. */
const PIECES = 3;
const FILLED = 0.62;

function typicalLength(positions: Shown["arrays"][string], edges: Shown["arrays"][string]): number {
  const [a, b] = [new Vector3(), new Vector3()];
  const lengths = Array.from({ length: edges.length / 2 }, (_, e) =>
    at(positions, edges[2 * e]!, a).distanceTo(at(positions, edges[2 * e + 1]!, b)),
  ).sort((x, y) => x - y);
  return lengths[lengths.length >> 1] ?? 1;
}

/** Edges as bars as thick as their forces are large, whole in tension and broken in compression. */
export function drawForces(shown: Shown, measures: Shown): Drawn | null {
  const { positions, edges } = shown.arrays;
  const forces = measures.arrays.edgeForce;
  if (!positions || !edges || !forces) return null;
  let most = 1e-12;
  for (const f of forces) most = Math.max(most, Math.abs(f));
  const thick = THICK * typicalLength(positions, edges);
  const owner: number[] = [];
  for (let e = 0; e < forces.length; e++)
    for (let k = 0; k < (forces[e]! < -1e-6 * most ? PIECES : 1); k++) owner.push(e);
  const bar = new CylinderGeometry(1, 1, 1, 6, 1, true);
  const mesh = new InstancedMesh(bar, new MeshLambertMaterial(), owner.length);
  const [a, b, along, middle, size] = [
    new Vector3(),
    new Vector3(),
    new Vector3(),
    new Vector3(),
    new Vector3(),
  ];
  const matrix = new Matrix4();
  const turn = new Quaternion();
  const own = new Color(PALETTE.member);
  owner.forEach((e, i) => {
    at(positions, edges[2 * e]!, a);
    at(positions, edges[2 * e + 1]!, b);
    along.subVectors(b, a);
    const length = along.length() || 1e-9;
    const pressed = forces[e]! < -1e-6 * most;
    const piece = i - owner.indexOf(e, Math.max(0, i - PIECES));
    const share = pressed ? (piece + 0.5) / PIECES : 0.5;
    middle.copy(a).addScaledVector(along, share);
    turn.setFromUnitVectors(UP, along.divideScalar(length));
    const radius = (thick / 2) * Math.max(THIN, Math.sqrt(Math.abs(forces[e]!) / most));
    size.set(radius, pressed ? (length / PIECES) * FILLED : length, radius);
    mesh.setMatrixAt(i, matrix.compose(middle, turn, size));
    mesh.setColorAt(i, own);
  });
  mesh.computeBoundingSphere();
  return {
    object: mesh,
    paint: (colours) => {
      owner.forEach((e, i) => {
        mesh.setColorAt(i, colours?.[e] ?? own);
      });
      if (mesh.instanceColor) mesh.instanceColor.needsUpdate = true;
    },
  };
}

/** The longest arrow, as a share of the model. */
const LONGEST = 0.13;

/** For each vertex the sum of the ways to it from its neighbours: it points out of the net where that ends. */
function outward(positions: Shown["arrays"][string], edges: Shown["arrays"][string]): Float32Array {
  const out = new Float32Array(positions.length);
  for (let e = 0; e < edges.length; e += 2)
    for (let k = 0; k < 3; k++) {
      const [i, j] = [3 * edges[e]! + k, 3 * edges[e + 1]! + k];
      out[i]! += positions[i]! - positions[j]!;
      out[j]! += positions[j]! - positions[i]!;
    }
  return out;
}

/** Reactions as arrows at their vertices: those that pull lead away from the net, those that push lead to it. */
export function drawReactions(shown: Shown, measures: Shown): Drawn | null {
  const { positions, edges } = shown.arrays;
  const reactions = measures.arrays.reactions;
  if (!positions || !edges || !reactions) return null;
  const out = outward(positions, edges);
  const force = new Vector3();
  const size = (i: number) => at(reactions, i, force).length();
  const count = positions.length / 3;
  let most = 0;
  for (let i = 0; i < count; i++) most = Math.max(most, size(i));
  if (most <= 0) return null;
  const box = [0, 1, 2].map((k) => {
    let [low, high] = [Infinity, -Infinity];
    for (let i = k; i < positions.length; i += 3)
      [low, high] = [Math.min(low, positions[i]!), Math.max(high, positions[i]!)];
    return high - low;
  });
  const longest = LONGEST * Math.hypot(...box);
  const some = Array.from({ length: count }, (_, i) => i).filter((i) => size(i) > 0.01 * most);
  const heads = new InstancedMesh(
    new ConeGeometry(1, 1, 8),
    new MeshLambertMaterial({ color: PALETTE.second }),
    some.length,
  );
  const shafts: number[] = [];
  const [tip, way, middle, scale] = [new Vector3(), new Vector3(), new Vector3(), new Vector3()];
  const matrix = new Matrix4();
  const turn = new Quaternion();
  some.forEach((i, k) => {
    at(positions, i, tip);
    const length = (longest * size(i)) / most;
    way.copy(force).normalize();
    if (way.dot(at(out, i, middle)) > 0) tip.addScaledVector(way, length);
    const head = Math.min(length, longest * 0.12 * (0.4 + (0.6 * length) / longest));
    middle.copy(tip).addScaledVector(way, -head / 2);
    turn.setFromUnitVectors(UP, way);
    heads.setMatrixAt(k, matrix.compose(middle, turn, scale.set(head * 0.32, head, head * 0.32)));
    const from = tip.clone().addScaledVector(way, -length);
    shafts.push(from.x, from.y, from.z, tip.x, tip.y, tip.z);
  });
  heads.computeBoundingSphere();
  const lines = new BufferGeometry();
  lines.setAttribute("position", new BufferAttribute(new Float32Array(shafts), 3));
  const group = new Group();
  group.add(new LineSegments(lines, new LineBasicMaterial({ color: PALETTE.second })), heads);
  return { object: group, paint: () => {} };
}
