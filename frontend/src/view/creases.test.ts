import { Box3, Group, LineSegments, Mesh, OrthographicCamera, PerspectiveCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { depthsOf, LINES, partLines } from "./creases";

describe("creases", () => {
  const box = new Box3(new Vector3(-3, -2, 0), new Vector3(3, 2, 1));
  const [most, least] = [Math.hypot(6, 4, 1), 1e-9];

  it("lie between the nearest and the farthest corner ahead, and a little more", () => {
    for (const camera of [new PerspectiveCamera(), new OrthographicCamera()]) {
      camera.up.set(0, 0, 1);
      camera.position.set(0, -10, 0.5);
      camera.lookAt(0, 0, 0.5);
      camera.updateMatrixWorld();
      const [near, far] = depthsOf(box, camera);
      expect(near).toBeCloseTo(8 - 0.02 * most, 6);
      expect(far).toBeCloseTo(12 + 0.02 * most, 6);
    }
  });

  it("are before and behind a camera that stands within", () => {
    const camera = new PerspectiveCamera();
    camera.updateMatrixWorld();
    const [near, far] = depthsOf(box, camera);
    expect(near).toBeLessThan(-1 + least);
    expect(far).toBeGreaterThan(0);
  });

  it("are looked for between faces, not lines", () => {
    const [group, line, face] = [new Group(), new LineSegments(), new Mesh()];
    group.add(line, face);
    partLines(group);
    expect(line.layers.isEnabled(LINES)).toBe(true);
    expect(line.layers.isEnabled(0)).toBe(false);
    expect(face.layers.isEnabled(0)).toBe(true);
  });
});
