import { Box3, OrthographicCamera, PerspectiveCamera, Vector3 } from "three";
import { expect, it } from "vitest";
import { cornersOf, metresAt } from "./fitting";
import { cameraOnto, creased, upright } from "./photographs";
import type { Stage } from "./stage";

it.each([0.5, 1.6, 4])(
  "sees all of a model in a picture %f times as wide as high, and fills it",
  (aspect) => {
    const extent = new Box3(new Vector3(-9, 2, 0), new Vector3(30, 8, 5));
    const places = cornersOf(extent);
    const like = new PerspectiveCamera(32, 1, 0.05, 5000);
    const from = new Vector3(0.6, -0.9, 0.5);
    const { camera, middle } = cameraOnto({ extent } as Stage, places, like, from, aspect);
    expect(like.aspect).toBe(1);
    camera.updateMatrixWorld();
    const looked = middle.clone().project(camera);
    expect(Math.hypot(looked.x, looked.y)).toBeLessThan(1e-9);
    const seen = places.map((place) => place.clone().project(camera));
    const reach = Math.max(...seen.flatMap(({ x, y }) => [Math.abs(x), Math.abs(y)]));
    expect(reach).toBeLessThan(1);
    expect(reach).toBeGreaterThan(0.75);
  },
);

it("knows what a pixel covers: as much everywhere in parallel looks, more further away in others", () => {
  const parallel = new OrthographicCamera(-4, 4, 3, -3);
  parallel.zoom = 2;
  expect(metresAt(parallel, new Vector3(0, 0, -7), 600)).toBeCloseTo(3 / 600, 12);
  const wide = new PerspectiveCamera(90);
  expect(metresAt(wide, new Vector3(0, 0, -10), 500)).toBeCloseTo(20 / 500, 12);
  expect(metresAt(wide, new Vector3(0, 0, -20), 500)).toBeCloseTo(40 / 500, 12);
});

it("turns pixels that were read from below the right way up, and lets nothing be seen through them", () => {
  const read = [1, 2, 3].flatMap((row) => [row, row, row, 0, row + 10, row, row, 9]);
  const rows = upright(Uint8Array.from(read), 2);
  expect([...rows].filter((_, k) => k % 4 === 0)).toEqual([3, 13, 2, 12, 1, 11]);
  expect([...rows].filter((_, k) => k % 4 === 3)).toEqual(Array(6).fill(255));
});

it("looks for creases as finely as on a screen, in pictures of any shape", () => {
  expect(creased(480, 300)).toEqual([480, 300]);
  expect(creased(2400, 1200)).toEqual([1200, 600]);
  expect(creased(1000, 4000)).toEqual([300, 1200]);
});
