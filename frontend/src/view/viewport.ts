import {
  AmbientLight,
  Box3,
  Color,
  DirectionalLight,
  DoubleSide,
  Fog,
  FrontSide,
  HemisphereLight,
  type Material,
  type Mesh,
  type MeshLambertMaterial,
  MOUSE,
  type Object3D,
  OrthographicCamera,
  PerspectiveCamera,
  Plane,
  Raycaster,
  Scene,
  TOUCH,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Look } from "../state/view";
import { themeColour, usePaper } from "../ui/paper";
import { inBands } from "./bands";
import { Creases, depthsOf, LINES, partLines } from "./creases";
import { type Cut, placeOfCut } from "./cutting";
import { cornersOf, frameParallel, framePerspective, isMisfit } from "./fitting";
import { type Drawn, dispose, handOn } from "./layers";
import { AT_EASE, anew, type Pace, paced } from "./pace";
import { PALETTE } from "./palette";
import { Shadow } from "./shadow";
import { SMOOTH, Smoothing } from "./smoothing";
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
/** So many times as deep as the model lies before it is where its lines would be as pale as the ground. */
const PALES = 2.4;

export interface Hit {
  layer: string;
  thing: number;
  point: Vector3;
}

type Camera = PerspectiveCamera | OrthographicCamera;

/** Where a camera stands and what it looks at, in metres, and half the height it sees in parallel looks. */
export interface Stand {
  position: [number, number, number];
  target: [number, number, number];
  half: number;
}

/** Metres that each of the pixels covers that a camera's picture is high, at a place. */
function metresAt(camera: Camera, place: Vector3, pixels: number): number {
  if (camera instanceof OrthographicCamera) return (camera.top - camera.bottom) / camera.zoom / pixels;
  const distance = camera.position.distanceTo(place);
  return (2 * distance * Math.tan((camera.fov * Math.PI) / 360)) / pixels;
}

/** The 3D scene and its cameras. It draws only when something changed. */
export class Viewport {
  readonly element = document.createElement("div");
  readonly scene = new Scene();
  readonly controls: OrbitControls;
  camera: Camera;
  size = new Vector2(1, 1);
  private listeners = new Set<() => void>();
  private renderer: WebGLRenderer;
  private perspective = new PerspectiveCamera(32, 1, 0.05, 5000);
  private parallel = new OrthographicCamera(-1, 1, 1, -1, -5000, 5000);
  private sun = new DirectionalLight("#ffffff", 1.6);
  private shadow = new Shadow();
  private smoothing = new Smoothing();
  private creases = new Creases();
  private layers = new Map<string, Drawn>();
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
  /** Things in the scene while no model is: what lights it. */
  private readonly bare: number;
  private cutPlane: Plane | null = null;
  private extentKnown = new Box3();
  /** Places the model fills, for fitting it closely. */
  places: Vector3[] = [];

  constructor() {
    this.renderer = new WebGLRenderer({ antialias: false, preserveDrawingBuffer: true });
    const fog = new Fog("#ffffff");
    this.scene.fog = fog;
    const colour = () => {
      this.renderer.setClearColor(themeColour("ground"));
      fog.color.set(themeColour("ground"));
    };
    colour();
    usePaper.subscribe(() => {
      colour();
      this.draw();
    });
    this.renderer.localClippingEnabled = true;
    this.renderer.domElement.style.display = "block";
    this.element.className = "absolute inset-0";
    this.element.append(this.renderer.domElement);
    for (const camera of [this.perspective, this.parallel]) {
      camera.up.set(0, 0, 1);
      camera.layers.enable(LINES);
    }
    this.camera = this.perspective;
    this.camera.position.set(20, -30, 18);
    this.scene.add(
      new HemisphereLight("#ffffff", "#d2c8b4", 1.55),
      new AmbientLight("#ffffff", 0.25),
      this.sun,
      this.sun.target,
      this.shadow.object,
    );
    this.bare = this.scene.children.length;
    this.controls = new OrbitControls(this.camera, this.renderer.domElement);
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

  /** Whether nothing is there yet to be seen: no finer picture would show more. */
  private get isBlank(): boolean {
    return this.scene.children.length <= this.bare;
  }

  private get gl() {
    return this.renderer.getContext() as WebGL2RenderingContext;
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
    const share = still ? 1 : this.pace.share;
    const ratio = Math.min(window.devicePixelRatio * share, FINEST);
    if (this.renderer.getPixelRatio() !== ratio) this.renderer.setPixelRatio(ratio);
    clearTimeout(this.refining);
    this.stopBands();
    if (!still && !this.isBlank) this.refine();
    const away = this.camera.position.clone().sub(this.controls.target).normalize();
    const aside = new Vector3(0, 0, 1).cross(away);
    this.sun.position
      .copy(this.controls.target)
      .addScaledVector(away, 40)
      .addScaledVector(aside, -22)
      .add(new Vector3(0, 0, 30));
    this.sun.target.position.copy(this.controls.target);
    for (const drawn of this.layers.values()) {
      drawn.seenFrom?.(this.camera);
      if (drawn.outlines) drawn.outlines.visible = share >= OUTLINED;
    }
    this.drawPlainly(!still && this.pace.plain);
    this.paleLines(this.camera);
    if (still) this.castShadow();
    this.shadow.object.visible = !this.isParallel && !this.extent.isEmpty();
    this.renderer.render(this.scene, this.camera);
    this.element.dataset.picture = still ? "still" : "quick";
    for (const listener of this.listeners) listener();
    if (this.isBlank) this.element.dataset.picture = "fine";
    else if (still) this.smooth();
    else this.keepPace();
  }

  /** Has plain forms drawn for what has many copies, or the copies themselves. */
  private drawPlainly(plain: boolean) {
    for (const drawn of this.layers.values()) drawn.plainly?.(plain);
  }

  /** Draws the still picture anew with smooth edges, bit by bit; not where that would take many times as long as it is worth. */
  private smooth() {
    const times = Math.min(SMOOTH, FINEST / this.renderer.getPixelRatio());
    const size = this.renderer.getDrawingBufferSize(new Vector2()).multiplyScalar(times).round();
    const next = this.smoothing.begin(this.renderer, this.scene, this.camera, [size.x, size.y]);
    const smoothed = () => {
      this.smoothing.lay(this.renderer);
      this.addCreases();
    };
    this.stopBands = inBands(this.gl, next, smoothed, {
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
    const next = this.beginCreases(this.camera, x!, y!, this.metresPerPixel / density);
    this.stopBands = inBands(this.gl, next, () => {
      this.creases.lay(this.renderer);
      finished();
    });
  }

  /** Lines further away are paler, so that one sees which lie in front. */
  private paleLines(camera: Camera) {
    if (this.extent.isEmpty()) return;
    camera.updateMatrixWorld();
    const [near, far] = depthsOf(this.extent, camera);
    Object.assign(this.scene.fog!, { near, far: near + PALES * (far - near) });
  }

  /** Begins to look for creases of the picture that was drawn, so many pixels wide and high. */
  private beginCreases(camera: Camera, width: number, height: number, metres: number) {
    return this.creases.begin(this.renderer, this.scene, camera, this.extent, [width, height], metres);
  }

  /** Draws the shadow of what is there; while things move it stays as it was. */
  private castShadow(objects = [...this.layers.values()].map((drawn) => drawn.object)) {
    if (this.extent.isEmpty()) return;
    const ground = Math.min(this.extent.min.z, 0);
    this.shadow.cast(this.renderer, this.scene, objects, this.extent, ground, this.cutPlane);
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
    this.renderer.setSize(w, h);
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
    const old = this.layers.get(name);
    if (!old && !drawn) return;
    if (old) {
      this.scene.remove(old.object);
      if (drawn) handOn(old.object, drawn.object);
      dispose(old.object, !drawn);
      this.layers.delete(name);
    }
    if (drawn) {
      this.pace = anew(this.pace);
      this.isNew = true;
      this.layers.set(name, drawn);
      this.scene.add(drawn.object);
      partLines(drawn.object);
      this.clip(drawn.object);
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
    inBands(this.gl, next, () => {});
  }

  /** Draws an object as it would be on the screen, and its shadow. */
  private drawUnseen(object: Object3D) {
    this.renderer.setSize(REHEARSED, REHEARSED, false);
    partLines(object);
    this.clip(object);
    this.rehearsed.add(object);
    this.scene.add(object);
    const model = this.extent;
    this.extent = new Box3().setFromObject(object);
    this.fit();
    this.castShadow([object]);
    this.shadow.object.visible = true;
    this.renderer.render(this.scene, this.camera);
    this.scene.remove(object);
    this.extent = model;
  }

  layer(name: string): Drawn | undefined {
    return this.layers.get(name);
  }

  layerNames(): string[] {
    return [...this.layers.keys()];
  }

  /** What the model fills, kept by whoever knows its positions. */
  set extent(box: Box3) {
    this.extentKnown = box;
  }
  get extent(): Box3 {
    return this.extentKnown;
  }

  cut(cut: Cut | null) {
    const before = this.cutPlane;
    this.cutPlane = null;
    if (cut && !this.extent.isEmpty()) {
      const normal = new Vector3();
      normal[cut.axis] = -1;
      this.cutPlane = new Plane(normal, placeOfCut(this.extent, cut));
    }
    if (!before && !this.cutPlane) return;
    for (const { object } of this.layers.values()) this.clip(object);
    this.draw();
  }

  private clip(object: Object3D) {
    object.traverse((o) => {
      const material = (o as Mesh).material as MeshLambertMaterial | undefined;
      if (!material) return;
      material.clippingPlanes = this.cutPlane ? [this.cutPlane] : [];
      (material as Material & { fog: boolean }).fog = "isLine" in o;
      // Of closed things only the outside is drawn, but of those that are cut open.
      if (material.userData.closed) material.side = this.cutPlane ? DoubleSide : FrontSide;
    });
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
    const found: (Hit & { distance: number })[] = [];
    for (const [layer, drawn] of this.layers) {
      if (!drawn.hit || !drawn.object.visible || !counts(layer)) continue;
      for (const hit of ray.intersectObject(drawn.object, true)) {
        if (this.cutPlane && this.cutPlane.distanceToPoint(hit.point) < 0) continue;
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
    const camera = this.perspective.clone();
    camera.aspect = width / height;
    camera.updateProjectionMatrix();
    const away = DIRECTIONS.oblique.clone().normalize();
    const centre = this.extent.getCenter(new Vector3());
    camera.position.copy(centre).add(away);
    camera.lookAt(centre);
    camera.updateMatrixWorld();
    framePerspective(camera, this.places, centre, away, camera.aspect, 1.15);
    camera.lookAt(centre);
    return this.photograph(width, camera, PALETTE.card, centre);
  }

  /** A picture as a camera sees the model, with a shadow but in parallel looks, so many pixels wide. */
  async photograph(
    width: number,
    camera: Camera = this.camera,
    ground = themeColour("ground"),
    middle = this.controls.target,
  ): Promise<Blob | null> {
    const aspect = camera instanceof PerspectiveCamera ? camera.aspect : this.size.x / this.size.y;
    const canvas = document.createElement("canvas");
    this.drawPlainly(false);
    [canvas.width, canvas.height] = [width, Math.round(width / aspect)];
    this.castShadow();
    this.shadow.object.visible = camera instanceof PerspectiveCamera;
    this.renderer.setClearColor(ground);
    this.paleLines(camera);
    // Drawn larger, so that edges are smooth.
    this.renderer.setPixelRatio(SMOOTH);
    this.renderer.setSize(canvas.width, canvas.height, false);
    this.renderer.render(this.scene, camera);
    if (!this.extent.isEmpty()) {
      const metres = metresAt(camera, middle, canvas.height);
      const next = this.beginCreases(camera, canvas.width, canvas.height, metres);
      while (!next(canvas.height));
      this.creases.lay(this.renderer);
    }
    canvas.getContext("2d")?.drawImage(this.renderer.domElement, 0, 0, canvas.width, canvas.height);
    this.renderer.setSize(this.size.x, this.size.y);
    this.renderer.setClearColor(themeColour("ground"));
    this.render(this.element.dataset.picture !== "quick");
    return new Promise((resolve) => canvas.toBlob(resolve, "image/png"));
  }

  /** The picture as it is seen now as lines and areas, SVG. */
  vectors(): string {
    this.drawPlainly(false);
    const objects = [...this.layers.values()].map((drawn) => drawn.object);
    this.camera.updateMatrixWorld();
    const size: [number, number] = [Math.round(this.size.x), Math.round(this.size.y)];
    return drawnAsVectors(objects, this.camera, (p) => this.project(p), size, themeColour("ground"));
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
