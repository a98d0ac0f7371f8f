import {
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  OrthographicCamera,
  Vector3,
} from "three";
import { describe, expect, it } from "vitest";
import { drawnAsVectors } from "./vector";

/** Seen from above: x to the right, y upward, what is higher is nearer; a metre is ten pixels. */
const camera = new OrthographicCamera();
const project = (p: Vector3) => new Vector3(10 * p.x, 100 - 10 * p.y, -p.z / 10);
const drawn = (...objects: (Mesh | LineSegments)[]) =>
  drawnAsVectors(objects, camera, project, [100, 100], "#ffffff");

function triangle(z: number, color: string, closed = true) {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array([0, 0, z, 4, 0, z, 0, 4, z]), 3));
  geometry.setIndex(closed ? [0, 1, 2] : [0, 0, 0]);
  return new Mesh(geometry, new MeshBasicMaterial({ color }));
}

describe("pictures as vectors", () => {
  it("draw what lies behind first", () => {
    const text = drawn(triangle(2, "#ff0000"), triangle(1, "#0000ff"));
    expect(text.indexOf("#0000ff")).toBeGreaterThan(0);
    expect(text.indexOf("#0000ff")).toBeLessThan(text.indexOf("#ff0000"));
    expect(text).toContain('d="M0 100L40 100L0 60Z"');
  });

  it("draw lines over the faces they lie on, and nothing of what is left out or hidden", () => {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(new Float32Array([0, 0, 1, 4, 0, 1]), 3));
    const line = new LineSegments(geometry, new LineBasicMaterial({ color: "#00ff00" }));
    const text = drawn(line, triangle(1, "#0000ff"));
    expect(text.indexOf("#00ff00")).toBeGreaterThan(text.indexOf("#0000ff"));
    expect(drawn(triangle(1, "#0000ff", false))).not.toContain("<path");
    line.visible = false;
    expect(drawn(line)).not.toContain("<path");
  });

  it("draw members as strokes as wide as they are, from end to end", () => {
    const geometry = new BoxGeometry(1, 1, 1).translate(0.5, 0, 0);
    const mesh = new InstancedMesh(geometry, new MeshBasicMaterial({ color: "#334455" }), 2);
    mesh.setMatrixAt(0, new Matrix4().makeScale(6, 0.2, 0.2).setPosition(1, 2, 0));
    mesh.setMatrixAt(1, new Matrix4().makeScale(0, 0, 0));
    const text = drawn(mesh);
    expect(text.match(/<path/g)).toHaveLength(1);
    // Round ends make up for half its width at either end.
    expect(text).toContain('d="M11 80L69 80"');
    expect(text).toContain('stroke-width="2"');
  });
});
