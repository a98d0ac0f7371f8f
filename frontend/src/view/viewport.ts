import {
  Box3,
  Color,
  type Mesh,
  type MeshLambertMaterial,
  MOUSE,
  type Object3D,
  OrthographicCamera,
  PerspectiveCamera,
  Raycaster,
  type Scene,
  TOUCH,
  Vector2,
  Vector3,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Look } from "../state/view";
import { themeColour, usePaper } from "../ui/paper";
import { inBands } from "./bands";
import type { Cut } from "./cutting";
import { type Camera, cornersOf, frameParallel, framePerspective, isMisfit, metresAt } from "./fitting";
import type { Drawn } from "./layers";
import { AT_EASE, anew, type Pace, paced } from "./pace";
import { PALETTE } from "./palette";
import { cameraOnto, photographed } from "./photographs";
import { SMOOTH, Smoothing } from "./smoothing";
import { Stage, sees } from "./stage";
import { drawnAsVectors } from "./vector";

const DIRECTIONS: Record<Look, Vector3> = {
  oblique: new Vector3(0.62, -0.95, 0.55),
  plan: new Vector3(0, -1e-4, 1),
  x: new Vector3(1, 0, 0),
  y: new Vector3(0, -1, 0),
};

const STILL_MS = 450;
const LONGEST_STILL_MS = 1500;
/** Below this share the outlines of plates would be wider than what they go round. */
const OUTLINED = 0.5;
/** Pixels a side, for each of the page, beyond which no picture is any better. */
const FINEST = 3;
/** A fine picture is drawn in so many bands at most, as each of them takes all corners of the model. */
const MOST_BANDS = 8;
/** Milliseconds that one of them may take, for the others to be drawn too. */
const PATIENCE_MS = 1000;
/** Pixels a side of what is drawn unseen. */
const REHEARSED = 64;

export interface Hit {
  layer: string;
  thing: number;
  point: Vector3;
}

/** Where a camera stands and what it looks at, in metres, and half the height it sees in parallel looks. */
export interface Stand {
  position: [number, number, number];
  target: [number, number, number];
  half: number;
}

/** A view of the stage: from where it is seen, and when it is drawn, which is only when something changed. */
export class Viewport {
  readonly element = document.createElement("div");
  readonly controls: OrbitControls;
  camera: Camera;
  size = new Vector2(1, 1);
  private listeners = new Set<() => void>();
  private stage = new Stage();
  private smoothing = new Smoothing();
  private perspective = new PerspectiveCamera(32, 1, 0.05, 5000);
  private parallel = new OrthographicCamera(-1, 1, 1, -1, -5000, 5000);
  /** What was drawn unseen; it is kept, as programs go with the last material that uses them. */
  private rehearsed = new Set<Object3D>();
  private wanted = false;
  private refining: ReturnType<typeof setTimeout> | undefined;
  private pace: Pace = AT_EASE;
  /** Whether something is drawn for the first time, which takes longer than it will. */
  private isNew = false;
  private held = false;
  private touchedAt = 0;
  private stopBands = () => {};
  /** Milliseconds the last quick picture took. */
  private taken = 16;
  /** Whether the whole model is fitted into the view and nobody has moved it since. */
  private fitted = false;
  /** Places the model fills, for fitting it closely. */
  places: Vector3[] = [];

  constructor() {
    usePaper.subscribe(() => {
      this.stage.onGround();
      this.draw();
    });
    this.element.className = "absolute inset-0";
    this.element.append(this.stage.renderer.domElement);
    for (const camera of [this.perspective, this.parallel]) sees(camera);
    this.camera = this.perspective;
    this.camera.position.set(20, -30, 18);
    this.controls = new OrbitControls(this.camera, this.stage.renderer.domElement);
    this.controls.zoomToCursor = true;
    this.controls.addEventListener("change", () => this.draw());
    this.controls.addEventListener("start", () => {
      this.fitted = false;
    });
    const hold = (e: PointerEvent) => {
      this.held = e.buttons > 0;
    };
    for (const event of ["pointerdown", "pointermove", "pointerup"] as const)
      window.addEventListener(event, hold, { capture: true, passive: true });
    const touch = () => {
      this.touchedAt = performance.now();
    };
    for (const event of ["pointerdown", "pointermove", "wheel", "keydown"] as const)
      window.addEventListener(event, touch, { capture: true, passive: true });
    new ResizeObserver(() => this.resize()).observe(this.element);
  }

  /** Calls back after every picture, until the returned function is called. */
  listen(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  }

  /** Milliseconds since anybody moved a hand, here or elsewhere on the page. */
  get untouched(): number {
    return performance.now() - this.touchedAt;
  }

  /** Whether all is still and drawn as finely as it will be. */
  get isFine(): boolean {
    return this.element.dataset.picture === "fine";
  }

  /** Asks for a picture in the next frame. */
  draw() {
    if (this.wanted) return;
    this.wanted = true;
    requestAnimationFrame(() => {
      this.wanted = false;
      this.render();
    });
  }

  /** Quick while things move; once they are still with all pixels and a shadow. That picture is then smoothed, and darkened
   * in its creases, as soon as either is drawn: it is the same however quick those before it had to be. */
  private render(still = false) {
    if (!this.element.isConnected) return;
    const { stage } = this;
    const share = still ? 1 : this.pace.share;
    const ratio = Math.min(window.devicePixelRatio * share, FINEST);
    if (stage.renderer.getPixelRatio() !== ratio) stage.renderer.setPixelRatio(ratio);
    clearTimeout(this.refining);
    this.stopBands();
    if (!still && !stage.isBlank) this.refine();
    stage.prepare(this.camera, this.controls.target, {
      plain: !still && this.pace.plain,
      outlined: share >= OUTLINED,
    });
    if (still) stage.castShadow();
    stage.draw(this.camera);
    this.element.dataset.picture = still ? "still" : "quick";
    for (const listener of this.listeners) listener();
    if (stage.isBlank) this.element.dataset.picture = "fine";
    else if (still) this.smooth();
    else this.keepPace();
  }

  /** Draws the still picture anew with smooth edges, bit by bit; not where that would take many times as long as it is worth. */
  private smooth() {
    const { renderer } = this.stage;
    const times = Math.min(SMOOTH, FINEST / renderer.getPixelRatio());
    const size = renderer.getDrawingBufferSize(new Vector2()).multiplyScalar(times).round();
    const next = this.smoothing.begin(this.stage, this.camera, size.x, size.y);
    const smoothed = () => {
      this.smoothing.lay(renderer);
      this.addCreases();
    };
    this.stopBands = inBands(this.graphics, next, smoothed, {
      least: Math.ceil(size.y / MOST_BANDS),
      patienceMs: PATIENCE_MS,
      instead: () => this.addCreases(),
    });
  }

  /** Darkens the creases of the picture that was drawn, bit by bit. */
  private addCreases() {
    const finished = () => {
      this.element.dataset.picture = "fine";
    };
    if (this.extent.isEmpty()) {
      finished();
      return;
    }
    // Creases are soft: no finer than pixels of the page, and no finer than the screen.
    const density = Math.min(window.devicePixelRatio, 1);
    const [x, y] = [this.size.x, this.size.y].map((side) => Math.max(Math.round(side * density), 1));
    const next = this.stage.beginCreases(this.camera, x!, y!, this.metresPerPixel / density);
    this.stopBands = inBands(this.graphics, next, () => {
      this.stage.layCreases();
      finished();
    });
  }

  /** Draws a fine picture after a while; not while a hand holds something, as the next quick one will be wanted soon. */
  private refine() {
    clearTimeout(this.refining);
    const still = Math.min(Math.max(STILL_MS, 3 * this.taken), LONGEST_STILL_MS);
    this.refining = setTimeout(() => (this.held ? this.refine() : this.render(true)), still);
  }

  /** Where pictures take long, as without a graphics processor, those drawn while things move have fewer pixels. */
  private keepPace() {
    const started = performance.now();
    requestAnimationFrame(() => {
      this.taken = performance.now() - started;
      if (!this.isNew) this.pace = paced(this.pace, this.taken);
      this.isNew = false;
    });
  }

  private resize() {
    const { clientWidth: w, clientHeight: h } = this.element;
    if (!w || !h) return;
    // A view of quite another shape, on another screen, is fitted anew.
    const first = this.size.x <= 1 || Math.abs(Math.log((w / h) * (this.size.y / this.size.x))) > 0.4;
    this.size.set(w, h);
    this.stage.renderer.setSize(w, h);
    this.perspective.aspect = w / h;
    this.perspective.updateProjectionMatrix();
    const half = (this.parallel.top - this.parallel.bottom) / 2;
    this.parallel.left = (-half * w) / h;
    this.parallel.right = (half * w) / h;
    this.parallel.updateProjectionMatrix();
    if (first || this.fitted) this.fit();
    this.render();
  }

  /** Puts a layer in place of the one of that name; `null` takes it away. */
  setLayer(name: string, drawn: Drawn | null) {
    if (!drawn && !this.stage.layers.has(name)) return;
    this.stage.setLayer(name, drawn);
    if (drawn) {
      this.pace = anew(this.pace);
      this.isNew = true;
    }
    this.draw();
  }

  /** Draws things that are of no model one after the other, unseen, so that the graphics have made ready what the like of
   * them need; as long as no model is to be seen. */
  rehearse(things: (() => Drawn | null)[]) {
    const left = [...things];
    const next = () => {
      if (this.element.isConnected) return true;
      const drawn = left.shift()?.();
      if (drawn) this.drawUnseen(drawn.object);
      return !left.length;
    };
    inBands(this.graphics, next, () => {});
  }

  /** Draws an object as it would be on the screen, and its shadow. */
  private drawUnseen(object: Object3D) {
    const { stage } = this;
    stage.renderer.setSize(REHEARSED, REHEARSED, false);
    this.rehearsed.add(object);
    stage.add(object);
    const model = this.extent;
    this.extent = new Box3().setFromObject(object);
    this.fit();
    stage.castShadow([object]);
    stage.draw(this.camera);
    stage.scene.remove(object);
    this.extent = model;
  }

  private get graphics(): WebGL2RenderingContext {
    return this.stage.renderer.getContext() as WebGL2RenderingContext;
  }

  get scene(): Scene {
    return this.stage.scene;
  }

  layer(name: string): Drawn | undefined {
    return this.stage.layers.get(name);
  }

  layerNames(): string[] {
    return [...this.stage.layers.keys()];
  }

  /** What the model fills, kept by whoever knows its positions. */
  set extent(box: Box3) {
    this.stage.extent = box;
  }
  get extent(): Box3 {
    return this.stage.extent;
  }

  cut(cut: Cut | null) {
    if (this.stage.cut(cut)) this.draw();
  }

  /** Looks from a side onto the whole model. */
  look(look: Look) {
    const parallel = look !== "oblique";
    this.camera = parallel ? this.parallel : this.perspective;
    this.controls.object = this.camera;
    this.controls.enableRotate = !parallel;
    this.controls.mouseButtons = {
      LEFT: parallel ? MOUSE.PAN : MOUSE.ROTATE,
      MIDDLE: MOUSE.DOLLY,
      RIGHT: MOUSE.PAN,
    };
    this.controls.touches = { ONE: parallel ? TOUCH.PAN : TOUCH.ROTATE, TWO: TOUCH.DOLLY_PAN };
    this.camera.position.copy(this.controls.target).addScaledVector(DIRECTIONS[look], 60);
    this.fit();
  }

  /** Follows a model that has outgrown its view, or shrunk in it, unless somebody has moved that. */
  follow() {
    if (this.fitted && !this.held && isMisfit(this.camera, this.places)) this.fit();
  }

  /** Moves along the present direction until the model, or a box, fills the view. */
  fit(box: Box3 = this.extent, margin = 1.08) {
    if (box.isEmpty()) return;
    this.fitted = box === this.extent;
    const places = box === this.extent && this.places.length ? this.places : cornersOf(box);
    const away = this.camera.position.clone().sub(this.controls.target).normalize();
    const centre = box.getCenter(new Vector3());
    this.camera.position.copy(centre).add(away);
    this.camera.lookAt(centre);
    this.camera.updateMatrixWorld();
    const aspect = this.size.x / this.size.y;
    if (this.camera === this.parallel) {
      const { half } = frameParallel(this.parallel, places, centre, aspect, margin);
      this.seeHalf(half);
      this.parallel.position.copy(centre).addScaledVector(away, 200);
    } else framePerspective(this.perspective, places, centre, away, aspect, margin);
    this.controls.target.copy(centre);
    this.controls.update();
    this.draw();
  }

  /** Lets parallel looks see half a height (m) above and below their middles. */
  private seeHalf(half: number) {
    const wide = (half * this.size.x) / this.size.y;
    Object.assign(this.parallel, { top: half, bottom: -half, left: -wide, right: wide, zoom: 1 });
    this.parallel.updateProjectionMatrix();
  }

  /** Where a place in space lies in the view, in pixels; z beyond 1 is behind. */
  project(place: Vector3, into = new Vector3()): Vector3 {
    into.copy(place).project(this.camera);
    return into.set(((into.x + 1) / 2) * this.size.x, ((1 - into.y) / 2) * this.size.y, into.z);
  }

  /** Metres a pixel covers at the model's middle; exact in parallel looks. */
  get metresPerPixel(): number {
    return metresAt(this.camera, this.controls.target, this.size.y);
  }

  get isParallel(): boolean {
    return this.camera === this.parallel;
  }

  ray(x: number, y: number): Raycaster {
    const ray = new Raycaster();
    ray.setFromCamera(new Vector2((x / this.size.x) * 2 - 1, 1 - (y / this.size.y) * 2), this.camera);
    return ray;
  }

  /** The nearest thing under a pixel that is not cut away, of layers that count. */
  pick(x: number, y: number, counts: (layer: string) => boolean = () => true): Hit | null {
    const ray = this.ray(x, y);
    const { cutPlane } = this.stage;
    const found: (Hit & { distance: number })[] = [];
    for (const [layer, drawn] of this.stage.layers) {
      if (!drawn.hit || !drawn.object.visible || !counts(layer)) continue;
      for (const hit of ray.intersectObject(drawn.object, true)) {
        if (cutPlane && cutPlane.distanceToPoint(hit.point) < 0) continue;
        // A member or node just behind a panel is what one means to pick.
        const distance = hit.distance + (layer.endsWith("panels") ? 0.3 : 0);
        found.push({
          layer,
          thing: drawn.hit(hit.instanceId, hit.faceIndex ?? undefined, hit.object),
          point: hit.point,
          distance,
        });
      }
    }
    return found.sort((a, b) => a.distance - b.distance)[0] ?? null;
  }

  tint(object: Object3D, lit: boolean) {
    const colour = new Color(lit ? "#3a1230" : "#000000");
    object.traverse((o) => {
      const material = (o as Mesh).material as MeshLambertMaterial | undefined;
      if (!material?.emissive || material.emissive.equals(colour)) return;
      material.emissive.copy(colour);
      this.draw();
    });
  }

  /** A picture of the whole model seen obliquely, as PNG. */
  async picture(width: number, height: number): Promise<Blob | null> {
    if (this.extent.isEmpty()) return null;
    const { stage, places, perspective } = this;
    const { camera, middle } = cameraOnto(stage, places, perspective, DIRECTIONS.oblique, width / height);
    return this.photograph(width, camera, PALETTE.card, middle);
  }

  /** A picture as a camera sees the model, with a shadow but in parallel looks, so many pixels wide. */
  async photograph(
    width: number,
    camera: Camera = this.camera,
    ground = themeColour("ground"),
    middle = this.controls.target,
  ): Promise<Blob | null> {
    const aspect = camera instanceof PerspectiveCamera ? camera.aspect : this.size.x / this.size.y;
    const shot = { camera, middle, ground, width, height: Math.round(width / aspect) };
    this.stopBands();
    const canvas = photographed(this.stage, shot);
    // What the view shows stays there; what it was about to show is begun anew.
    if (!this.isFine) this.draw();
    return new Promise((resolve) => canvas.toBlob(resolve, "image/png"));
  }

  /** The picture as it is seen now as lines and areas, SVG. */
  vectors(): string {
    const { stage } = this;
    stage.prepare(this.camera, this.controls.target);
    this.camera.updateMatrixWorld();
    const size: [number, number] = [Math.round(this.size.x), Math.round(this.size.y)];
    return drawnAsVectors(stage.objects, this.camera, (p) => this.project(p), size, themeColour("ground"));
  }

  /** From where the model is seen now. */
  get stand(): Stand {
    const { camera, controls } = this;
    return {
      position: camera.position.toArray(),
      target: controls.target.toArray(),
      half: (this.parallel.top - this.parallel.bottom) / 2 / this.parallel.zoom,
    };
  }

  /** Sees the model from where it was seen before. */
  standAt({ position, target, half }: Stand) {
    this.fitted = false;
    this.camera.position.fromArray(position);
    this.controls.target.fromArray(target);
    if (this.isParallel) this.seeHalf(half);
    this.controls.update();
    this.draw();
  }
}
