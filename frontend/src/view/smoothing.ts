/** Smooth edges: a picture drawn larger than it is shown, of which each pixel is the mean of several. */
import { LinearFilter, ShaderMaterial, type WebGLRenderer, WebGLRenderTarget } from "three";
import { FullScreenQuad } from "three/examples/jsm/postprocessing/Pass.js";
import type { Camera } from "./fitting";
import type { Stage } from "./stage";
import { asOnScreen, rowByRow } from "./targets";

/** How many times as many pixels a side. */
export const SMOOTH = 2;

/** Shows a picture as it is; halfway between four of its pixels, their mean. */
const SHOW = {
  uniforms: { picture: { value: null } },
  vertexShader: `varying vec2 at;
    void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }`,
  fragmentShader: `uniform sampler2D picture;
    varying vec2 at;
    void main() { gl_FragColor = texture2D(picture, at); }`,
  depthTest: false,
  depthWrite: false,
};

export class Smoothing {
  private target = asOnScreen(
    new WebGLRenderTarget(1, 1, { minFilter: LinearFilter, magFilter: LinearFilter }),
  );
  private show = new FullScreenQuad(new ShaderMaterial(SHOW));

  /** Begins a picture of the stage so many pixels wide and high. What is returned draws some rows more of it, and tells
   * whether they were the last. */
  begin(stage: Stage, camera: Camera, width: number, height: number): (rows: number) => boolean {
    this.target.setSize(width, height);
    return rowByRow([this.target], height, () => stage.draw(camera, this.target));
  }

  /** Puts it in place of the picture on the screen, or in a target. */
  lay(renderer: WebGLRenderer, onto: WebGLRenderTarget | null = null) {
    (this.show.material as ShaderMaterial).uniforms.picture!.value = this.target.texture;
    renderer.setRenderTarget(onto);
    this.show.render(renderer);
    renderer.setRenderTarget(null);
  }

  dispose() {
    this.target.dispose();
    this.show.material.dispose();
    this.show.dispose();
  }
}
