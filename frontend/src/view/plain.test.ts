import {
  BoxGeometry,
  Color,
  InstancedBufferAttribute,
  InstancedMesh,
  Matrix4,
  MeshBasicMaterial,
  OctahedronGeometry,
  Vector3,
} from "three";
import { mergeVertices } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import { expect, test, vi } from "vitest";
import { merged, plainFor } from "./plain";

const form = () => new BoxGeometry(1, 1, 1).translate(0.5, 0, 0);
const plain = () => mergeVertices(new OctahedronGeometry(0.5).deleteAttribute("uv").translate(0.5, 0, 0));
const places = [new Vector3(10, 0, 0), new Vector3(0, 20, 0)];

function copies() {
  const mesh = new InstancedMesh(form(), new MeshBasicMaterial(), places.length);
  places.forEach((place, k) => {
    mesh.setMatrixAt(k, new Matrix4().makeScale(4, 1, 1).setPosition(place));
    mesh.setColorAt(k, new Color(k, 0, 0));
  });
  return mesh;
}

test("copies of plain forms stand where the copies do, as large and of their colour", () => {
  const mesh = copies();
  const geometry = merged([[mesh, plain()]]);
  const place = geometry.getAttribute("position");
  const colour = geometry.getAttribute("color");
  const each = place.count / 2;
  places.forEach(({ x, y, z }, k) => {
    const own = Array.from({ length: each }, (_, v) => k * each + v);
    const span = (of: (v: number) => number) => [Math.min(...own.map(of)), Math.max(...own.map(of))];
    expect(span((v) => place.getX(v))).toEqual([x, x + 4].map((at) => expect.closeTo(at, 5)));
    expect(span((v) => place.getY(v))).toEqual([y - 0.5, y + 0.5].map((at) => expect.closeTo(at, 5)));
    expect(span((v) => place.getZ(v))).toEqual([z - 0.5, z + 0.5].map((at) => expect.closeTo(at, 5)));
    expect(new Set(own.map((v) => colour.getX(v)))).toEqual(new Set([k]));
  });
  expect(Math.max(...geometry.index!.array)).toBe(place.count - 1);
});

test("what swells towards an end does so plainly too", () => {
  const mesh = copies();
  mesh.geometry.setAttribute("swell", new InstancedBufferAttribute(new Float32Array([1, 3, 1, 1]), 2));
  const bar = new BoxGeometry(1, 1, 1, 1).translate(0.5, 0, 0);
  const place = merged([[mesh, bar]]).getAttribute("position");
  const wide = (k: number, x: number) =>
    Math.max(
      ...Array.from({ length: 24 }, (_, v) => 24 * k + v)
        .filter((v) => place.getX(v) === x)
        .map((v) => place.getZ(v)),
    );
  expect([wide(0, 10), wide(0, 14), wide(1, 0), wide(1, 4)]).toEqual([0.5, 1.5, 0.5, 0.5]);
});

test("they are merged when they are first needed, and again once the copies changed", () => {
  const mesh = copies();
  const { object, plainly } = plainFor([[mesh, plain()]]);
  const first = object.geometry;
  plainly(false);
  expect([object.visible, mesh.visible, object.geometry === first]).toEqual([false, true, true]);
  plainly(true);
  const second = object.geometry;
  expect([object.visible, mesh.visible, second === first]).toEqual([true, false, false]);
  plainly(false);
  plainly(true);
  expect(object.geometry).toBe(second);
  plainly(false);
  mesh.instanceColor!.needsUpdate = true;
  const gone = vi.fn();
  second.addEventListener("dispose", gone);
  plainly(true);
  expect(object.geometry).not.toBe(second);
  expect(gone).toHaveBeenCalled();
});
