/** The soft shadow of the model on the ground, as of a sky that is brighter on one side. */
import {
  type Box3,
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Mesh,
  MeshBasicMaterial,
  type Object3D,
  OrthographicCamera,
  type Plane,
  type Scene,
  ShaderMaterial,
  Vector2,
  Vector3,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { FullScreenQuad } from "three/examples/jsm/postprocessing/Pass.js";
import { cornersOf } from "./fitting";
import { PALETTE } from "./palette";

/** The direction in which light comes down. */
const DOWN = new Vector3(0.28, 0.34, -1).normalize();
const PIXELS = 512;
/** How far it is blurred: a share of its size, on either side of a place. */
const BLUR = 0.014;
const DARKNESS = 0.3;
/** Share of the model's size that is left free around its shadow, for it to fade. */
const AROUND = 0.08;

/** Nine places along a line, weighed as a bell curve. */
const SOFTEN = {
  uniforms: { from: { value: null }, step: { value: new Vector2() } },
  vertexShader: `varying vec2 at;
    void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }`,
  fragmentShader: `uniform sampler2D from;
    uniform vec2 step;
    varying vec2 at;
    void main() {
      vec4 sum = vec4(0.0);
      float whole = 0.0;
      for (int k = -4; k <= 4; k++) {
        float weight = exp(-float(k * k) / 8.0);
        sum += weight * texture2D(from, at + float(k) / 4.0 * step);
        whole += weight;
      }
      gl_FragColor = sum / whole;
    }`,
};

/** Where light that comes down through a place meets the ground at a height. */
export function shadowOf(place: Vector3, ground: number, into = new Vector3()): Vector3 {
  return into.copy(place).addScaledVector(DOWN, (ground - place.z) / DOWN.z);
}

/** The rectangle on the ground, from its lowest to its highest corner, in which a box's shadow lies. */
export function shadowedBy(box: Box3, ground: number): [Vector3, Vector3] {
  const corners = cornersOf(box).map((corner) => shadowOf(corner, ground));
  const around = AROUND * Math.max(box.max.x - box.min.x, box.max.y - box.min.y, box.max.z - box.min.z);
  const low = corners.reduce((least, c) => least.min(c), corners[0]!.clone()).subScalar(around);
  const high = corners.reduce((most, c) => most.max(c), corners[0]!.clone()).addScalar(around);
  low.z = ground;
  high.z = ground;
  return [low, high];
}

export class Shadow {
  readonly object: Mesh;
  private light = new OrthographicCamera();
  private cover = new MeshBasicMaterial({ color: "#ffffff", side: DoubleSide });
  private targets = [0, 1].map(() => new WebGLRenderTarget(PIXELS, PIXELS));
  private soften = new FullScreenQuad(new ShaderMaterial(SOFTEN));

  constructor() {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(new Float32Array(12), 3));
    geometry.setAttribute("uv", new BufferAttribute(new Float32Array([0, 0, 1, 0, 1, 1, 0, 1]), 2));
    geometry.setIndex([0, 1, 2, 0, 2, 3]);
    // Seen from below there is none.
    const material = new MeshBasicMaterial({
      color: PALETTE.ink,
      alphaMap: this.targets[0]!.texture,
      transparent: true,
      opacity: DARKNESS,
      depthWrite: false,
    });
    this.object = new Mesh(geometry, material);
    this.object.frustumCulled = false;
    this.object.renderOrder = -1;
    this.object.visible = false;
    this.light.up.set(0, 1, 0);
  }

  /** Draws it anew for some objects, which a plane may cut, in a box above the ground at a height. */
  cast(
    renderer: WebGLRenderer,
    scene: Scene,
    objects: Iterable<Object3D>,
    box: Box3,
    ground: number,
    cut: Plane | null,
  ) {
    const [low, high] = shadowedBy(box, ground);
    this.layOut(low, high, box);
    this.cover.clippingPlanes = cut ? [cut] : [];
    const casting = new Set(objects);
    const hidden = scene.children.filter((o) => o.visible && !casting.has(o));
    for (const o of hidden) o.visible = false;
    const clear = renderer.getClearColor(new Color());
    renderer.setClearColor("#000000");
    scene.overrideMaterial = this.cover;
    renderer.setRenderTarget(this.targets[0]!);
    renderer.render(scene, this.light);
    scene.overrideMaterial = null;
    for (const o of hidden) o.visible = true;
    this.blur(renderer, new Vector2(BLUR, 0), 0);
    this.blur(renderer, new Vector2(0, BLUR), 1);
    renderer.setRenderTarget(null);
    renderer.setClearColor(clear);
  }

  /** Puts the plane and the light's camera where they cover the same rectangle of the ground. */
  private layOut(low: Vector3, high: Vector3, box: Box3) {
    const place = this.object.geometry.getAttribute("position") as BufferAttribute;
    place.setXYZ(0, low.x, low.y, low.z).setXYZ(1, high.x, low.y, low.z);
    place.setXYZ(2, high.x, high.y, low.z).setXYZ(3, low.x, high.y, low.z);
    place.needsUpdate = true;
    const deep = box.getSize(new Vector3()).length() + low.distanceTo(high);
    // Straight down, sheared along the light: the rectangle fills the picture.
    const [w, h] = [(high.x - low.x) / 2, (high.y - low.y) / 2];
    Object.assign(this.light, { left: -w, right: w, bottom: -h, top: h, near: -deep, far: deep });
    this.light.position.set((low.x + high.x) / 2, (low.y + high.y) / 2, low.z);
    this.light.lookAt(this.light.position.x, this.light.position.y, low.z - 1);
    this.light.updateProjectionMatrix();
    const sheared = this.light.projectionMatrix.elements;
    sheared[8] = -(DOWN.x / DOWN.z) / w;
    sheared[9] = -(DOWN.y / DOWN.z) / h;
    this.light.projectionMatrixInverse.copy(this.light.projectionMatrix).invert();
  }

  private blur(renderer: WebGLRenderer, step: Vector2, from: 0 | 1) {
    const material = this.soften.material as ShaderMaterial;
    material.uniforms.from!.value = this.targets[from]!.texture;
    material.uniforms.step!.value = step;
    renderer.setRenderTarget(this.targets[1 - from]!);
    this.soften.render(renderer);
  }
}
