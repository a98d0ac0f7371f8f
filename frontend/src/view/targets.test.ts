import { SRGBColorSpace, WebGLRenderTarget } from "three";
import { expect, test } from "vitest";
import { asOnScreen, rowByRow } from "./targets";

test("targets are drawn in rows, one after the other", () => {
  const targets = [new WebGLRenderTarget(8, 10), new WebGLRenderTarget(8, 10)];
  const drawn: string[] = [];
  const next = rowByRow(targets, 10, () => {
    for (const [k, { scissor, scissorTest }] of targets.entries())
      if (scissorTest && scissor.w) drawn.push(`${k}: ${scissor.y}–${scissor.y + scissor.w}`);
  });
  expect([4, 4, 4, 99].map((rows) => next(rows))).toEqual([false, false, false, true]);
  expect(drawn).toEqual(["0: 0–4", "0: 4–8", "0: 8–10", "1: 0–10"]);
});

test("a target holds colours as the screen does, so that materials need no second program", () => {
  const target = new WebGLRenderTarget(8, 10);
  expect(asOnScreen(target)).toBe(target);
  expect(target.texture.colorSpace).toBe(SRGBColorSpace);
  expect(target.texture.internalFormat).toBe("RGBA8");
});
