/** What is drawn into other than the screen. */
import { SRGBColorSpace, type WebGLRenderTarget } from "three";

/** Has colours encoded in a target as they are on the screen, as no material is to need a second program only for it; and
 * kept as they were written, as what is drawn of a target is not to be encoded twice. */
export function asOnScreen(target: WebGLRenderTarget): WebGLRenderTarget {
  target.texture.colorSpace = SRGBColorSpace;
  target.texture.internalFormat = "RGBA8";
  return Object.assign(target, { isXRRenderTarget: true });
}

/** Draws into several targets, one after the other, some rows at a time; `draw` draws into all of them. */
export function rowByRow(targets: WebGLRenderTarget[], height: number, draw: () => void) {
  const only = (target: WebGLRenderTarget, from: number, rows: number) => {
    target.scissorTest = true;
    target.scissor.set(0, from, target.width, rows);
  };
  let [at, from] = [0, 0];
  return (rows: number): boolean => {
    const to = Math.min(from + rows, height);
    targets.forEach((target, k) => {
      only(target, from, k === at ? to - from : 0);
    });
    draw();
    [at, from] = to === height ? [at + 1, 0] : [at, to];
    return at >= targets.length;
  };
}
