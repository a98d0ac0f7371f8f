import { Box3, OrthographicCamera, PerspectiveCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { cornersOf, frameParallel, framePerspective, isMisfit } from "./fitting";

const AWAY = new Vector3(-0.55, -0.75, 0.37).normalize();
const box = (width: number, depth: number, height: number, x = 0) =>
  cornersOf(new Box3(new Vector3(x, 0, 0), new Vector3(x + width, depth, height)));
const middle = (places: Vector3[]) => new Box3().setFromPoints(places).getCenter(new Vector3());

function seen(places: Vector3[], aspect: number) {
  const camera = new PerspectiveCamera(38, aspect, 0.01, 1e5);
  const centre = middle(places);
  camera.up.set(0, 0, 1);
  camera.position.copy(centre).add(AWAY);
  camera.lookAt(centre);
  camera.updateMatrixWorld();
  framePerspective(camera, places, centre, AWAY, aspect, 1.08);
  camera.updateMatrixWorld();
  return camera;
}

describe.each([
  [20, 12, 5, 1.6],
  [3, 1, 1, 0.7],
  [90, 4, 2, 2.4],
])("a model of %d by %d by %d m in a view of %d", (width, depth, height, aspect) => {
  const places = box(width, depth, height);
  const camera = seen(places, aspect);

  it("fills it and is a misfit once it has outgrown it or is small in it", () => {
    expect(isMisfit(camera, places)).toBe(false);
    const at = places.map((p) => p.clone().project(camera));
    const reach = (axis: "x" | "y") => Math.max(...at.map((p) => Math.abs(p[axis])));
    expect(Math.max(reach("x"), reach("y"))).toBeCloseTo(1 / 1.08, 1);
    expect(isMisfit(camera, box(2 * width, 2 * depth, 2 * height))).toBe(true);
    expect(isMisfit(camera, box(0.9 * width, 0.9 * depth, 0.9 * height))).toBe(false);
    expect(isMisfit(camera, box(0.05 * width, 0.05 * depth, 0.05 * height))).toBe(true);
    expect(isMisfit(camera, box(width, depth, height, 3 * width + depth))).toBe(true);
    expect(isMisfit(camera, [])).toBe(false);
  });

  it("is covered from above by half its larger side", () => {
    const above = new OrthographicCamera();
    above.position.set(0, 0, 60);
    above.updateMatrixWorld();
    const centre = new Vector3();
    const { half } = frameParallel(above, places, centre, aspect, 1);
    expect(half).toBeCloseTo(Math.max(depth / 2, width / 2 / aspect, 0.5));
    expect([centre.x, centre.y]).toEqual([width / 2, depth / 2]);
  });
});
