import {
  AmbientLight,
  Box3,
  DirectionalLight,
  DoubleSide,
  Fog,
  FrontSide,
  HemisphereLight,
  type Material,
  type Mesh,
  type MeshLambertMaterial,
  type Object3D,
  PerspectiveCamera,
  Plane,
  Scene,
  Vector3,
  WebGLRenderer,
  type WebGLRenderTarget,
} from "three";
import { themeColour } from "../ui/paper";
import { Creases, depthsOf, LINES, partLines } from "./creases";
import { type Cut, placeOfCut } from "./cutting";
import type { Camera } from "./fitting";
import { type Drawn, dispose, handOn } from "./layers";
import { Shadow } from "./shadow";

/** So many times as deep as the model lies before it is where its lines would be as pale as the ground. */
const PALES = 2.4;

/** Whether what has many copies is drawn plainly, and whether plates have their outlines. */
export interface Dress {
  plain: boolean;
  outlined: boolean;
}
const FULLY: Dress = { plain: false, outlined: true };

/** Lets a camera see what is drawn on the stage, with z upward. */
export function sees(camera: Camera) {
  camera.up.set(0, 0, 1);
  camera.layers.enable(LINES);
}

/** What there is to be seen, and how it is drawn: layers of the model, cut where they are to be, in their light, with a shadow
 * and with darker creases; for whichever camera. */
export class Stage {
  readonly renderer = new WebGLRenderer({ antialias: false, preserveDrawingBuffer: true });
  readonly scene = new Scene();
  readonly layers = new Map<string, Drawn>();
  /** What the model fills, kept by whoever knows its positions. */
  extent = new Box3();
  cutPlane: Plane | null = null;
  private fog = new Fog("#ffffff");
  private sun = new DirectionalLight("#ffffff", 1.6);
  private shadow = new Shadow();
  private creases = new Creases();
  /** Things in the scene while no model is: what lights it. */
  private readonly bare: number;

  constructor() {
    this.scene.fog = this.fog;
    this.onGround();
    this.renderer.localClippingEnabled = true;
    this.renderer.domElement.style.display = "block";
    const sky = new HemisphereLight("#ffffff", "#d2c8b4", 1.55);
    const everywhere = new AmbientLight("#ffffff", 0.25);
    this.scene.add(sky, everywhere, this.sun, this.sun.target, this.shadow.object);
    this.bare = this.scene.children.length;
  }

  /** Draws on the paper's ground. */
  onGround() {
    this.renderer.setClearColor(themeColour("ground"));
    this.fog.color.set(themeColour("ground"));
  }

  /** Whether nothing is there yet to be seen: no finer picture would show more. */
  get isBlank(): boolean {
    return this.scene.children.length <= this.bare;
  }

  get objects(): Object3D[] {
    return [...this.layers.values()].map((drawn) => drawn.object);
  }

  /** Puts a layer in place of the one of that name; `null` takes it away. */
  setLayer(name: string, drawn: Drawn | null) {
    const old = this.layers.get(name);
    if (old) {
      this.scene.remove(old.object);
      if (drawn) handOn(old.object, drawn.object);
      dispose(old.object, !drawn);
      this.layers.delete(name);
    }
    if (!drawn) return;
    this.layers.set(name, drawn);
    this.add(drawn.object);
  }

  /** Adds an object that is drawn as the model is. */
  add(object: Object3D) {
    this.scene.add(object);
    partLines(object);
    this.clip(object);
  }

  /** Cuts the model away on one side of a plane, or shows all of it; whether that is another picture. */
  cut(cut: Cut | null): boolean {
    const before = this.cutPlane;
    this.cutPlane = null;
    if (cut && !this.extent.isEmpty()) {
      const normal = new Vector3();
      normal[cut.axis] = -1;
      this.cutPlane = new Plane(normal, placeOfCut(this.extent, cut));
    }
    if (!before && !this.cutPlane) return false;
    for (const object of this.objects) this.clip(object);
    return true;
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

  /** Makes all ready to be drawn for a camera that looks at a place: light, lines that grow paler, and how much of what is
   * there is drawn. */
  prepare(camera: Camera, target: Vector3, { plain, outlined }: Dress = FULLY) {
    this.light(camera, target);
    this.paleLines(camera);
    for (const drawn of this.layers.values()) {
      drawn.seenFrom?.(camera);
      drawn.plainly?.(plain);
      if (drawn.outlines) drawn.outlines.visible = outlined;
    }
  }

  /** Lets the sun stand over the left shoulder of who looks at a place. */
  private light(camera: Camera, target: Vector3) {
    const away = camera.position.clone().sub(target).normalize();
    const aside = new Vector3(0, 0, 1).cross(away);
    this.sun.position
      .copy(target)
      .addScaledVector(away, 40)
      .addScaledVector(aside, -22)
      .add(new Vector3(0, 0, 30));
    this.sun.target.position.copy(target);
  }

  /** Lines further away are paler, so that one sees which lie in front. */
  private paleLines(camera: Camera) {
    if (this.extent.isEmpty()) return;
    camera.updateMatrixWorld();
    const [near, far] = depthsOf(this.extent, camera);
    Object.assign(this.fog, { near, far: near + PALES * (far - near) });
  }

  /** Draws the shadow of what is there; until it is drawn again it stays as it was. */
  castShadow(objects = this.objects) {
    if (this.extent.isEmpty()) return;
    const ground = Math.min(this.extent.min.z, 0);
    this.shadow.cast(this.renderer, this.scene, objects, this.extent, ground, this.cutPlane);
  }

  /** Draws what a camera sees on the screen, or in a target; with the shadow, but in parallel looks. */
  draw(camera: Camera, into: WebGLRenderTarget | null = null) {
    this.shadow.object.visible = camera instanceof PerspectiveCamera && !this.extent.isEmpty();
    this.renderer.setRenderTarget(into);
    this.renderer.render(this.scene, camera);
    this.renderer.setRenderTarget(null);
  }

  /** Begins to look for creases of the picture that was drawn, so many pixels wide and high. */
  beginCreases(camera: Camera, width: number, height: number, metres: number) {
    return this.creases.begin(this.renderer, this.scene, camera, this.extent, [width, height], metres);
  }

  /** Darkens the picture on the screen, or in a target, by the creases that were found. */
  layCreases(onto: WebGLRenderTarget | null = null) {
    this.creases.lay(this.renderer, onto);
  }
}
