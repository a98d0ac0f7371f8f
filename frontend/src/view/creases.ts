/** Creases and corners that less light reaches: ambient occlusion, worked out from the depths of a picture. */
import {
  type Box3,
  DepthTexture,
  FloatType,
  MultiplyBlending,
  NearestFilter,
  type Object3D,
  type OrthographicCamera,
  type PerspectiveCamera,
  type Scene,
  ShaderMaterial,
  Vector3,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { GTAOPass } from "three/examples/jsm/postprocessing/GTAOPass.js";
import { FullScreenQuad } from "three/examples/jsm/postprocessing/Pass.js";
import { cornersOf } from "./fitting";
import { asOnScreen, rowByRow } from "./targets";

/** The layer of lines, which have no creases. */
export const LINES = 1;
/** How far about a place light is looked for, in pixels at the middle of the model. */
const REACH = 34;
const DARKNESS = 0.62;
const SAMPLES = 12;

/** Multiplies the picture by how much light is left. */
const DARKEN = {
  uniforms: { light: { value: null }, share: { value: DARKNESS } },
  vertexShader: `varying vec2 at;
    void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }`,
  fragmentShader: `uniform sampler2D light;
    uniform float share;
    varying vec2 at;
    void main() { gl_FragColor = vec4(vec3(mix(1.0, texture2D(light, at).r, share)), 1.0); }`,
  blending: MultiplyBlending,
  premultipliedAlpha: true,
  transparent: true,
  depthTest: false,
  depthWrite: false,
};

type Camera = PerspectiveCamera | OrthographicCamera;

/** The nearest and the farthest that anything in a box lies ahead of a camera, in metres. */
export function depthsOf(box: Box3, camera: Camera): [number, number] {
  const ahead = camera.getWorldDirection(new Vector3());
  const from = camera.getWorldPosition(new Vector3());
  const away = cornersOf(box).map((corner) => corner.sub(from).dot(ahead));
  const size = box.getSize(new Vector3()).length();
  return [Math.min(...away) - 0.02 * size, Math.max(...away) + 0.02 * size];
}

export class Creases {
  private target = asOnScreen(
    new WebGLRenderTarget(1, 1, {
      minFilter: NearestFilter,
      magFilter: NearestFilter,
      depthTexture: new DepthTexture(1, 1, FloatType),
    }),
  );
  private passes = new Map<boolean, GTAOPass>();
  private darken = new FullScreenQuad(new ShaderMaterial(DARKEN));

  /** Begins to work out how much light is left of a scene, as a camera sees it, so many pixels wide and high; `metres` are
   * those a pixel covers. What is returned does so for some rows more, and tells whether they were the last: it takes long
   * without a graphics processor. */
  begin(
    renderer: WebGLRenderer,
    scene: Scene,
    seen: Camera,
    box: Box3,
    [width, height]: [number, number],
    metres: number,
  ): (rows: number) => boolean {
    const camera = seen.clone();
    const [near, far] = depthsOf(box, seen);
    // Depths are told apart the better, the less they span.
    const nearest = seen.type === "PerspectiveCamera" ? Math.max(near, far / 400, 0.05) : near;
    Object.assign(camera, { near: nearest, far });
    camera.layers.disable(LINES);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    this.target.setSize(width, height);
    renderer.setRenderTarget(this.target);
    renderer.render(scene, camera);
    const pass = this.passFor(camera, scene);
    pass.setSize(width, height);
    pass.updateGtaoMaterial({ radius: REACH * metres, thickness: REACH * metres });
    renderer.setRenderTarget(null);
    (this.darken.material as ShaderMaterial).uniforms.light!.value = pass.gtaoMap;
    return rowByRow([pass.gtaoRenderTarget, pass.pdRenderTarget], height, () => {
      pass.render(renderer, this.target, this.target, 0, false);
      renderer.setRenderTarget(null);
    });
  }

  /** Darkens the picture that was drawn on the screen, or in a target, by what was worked out. */
  lay(renderer: WebGLRenderer, onto: WebGLRenderTarget | null = null) {
    const clears = renderer.autoClear;
    renderer.autoClear = false;
    renderer.setRenderTarget(onto);
    this.darken.render(renderer);
    renderer.setRenderTarget(null);
    renderer.autoClear = clears;
  }

  /** Cameras of either kind need a program of their own. */
  private passFor(camera: Camera, scene: Scene): GTAOPass {
    const inPerspective = camera.type === "PerspectiveCamera";
    let pass = this.passes.get(inPerspective);
    if (!pass) {
      pass = new GTAOPass(scene, camera, 1, 1, { depthTexture: this.target.depthTexture! });
      pass.updateGtaoMaterial({ samples: SAMPLES });
      pass.output = GTAOPass.OUTPUT.Off;
      this.passes.set(inPerspective, pass);
    }
    pass.camera = camera;
    return pass;
  }
}

/** Puts everything that is only a line on the layer of lines. */
export function partLines(object: Object3D) {
  object.traverse((o) => {
    if ("isLine" in o) o.layers.set(LINES);
  });
}
