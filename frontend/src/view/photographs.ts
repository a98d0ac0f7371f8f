import { PerspectiveCamera, Vector3 } from "three";
import { type Camera, framePerspective, metresAt } from "./fitting";
import type { Stage } from "./stage";

/** Room around a model of which a picture is taken as a whole. */
const MARGIN = 1.15;

export interface Shot {
  camera: Camera;
  /** What the picture is of the middle of (m). */
  middle: Vector3;
  /** The colour behind it. */
  ground: string;
  /** Pixels. */
  width: number;
  height: number;
}

/** A camera like another, from which all places of a model are seen in a direction. */
export function cameraOnto(
  stage: Stage,
  places: Vector3[],
  like: PerspectiveCamera,
  from: Vector3,
  aspect: number,
) {
  const camera = like.clone();
  camera.aspect = aspect;
  camera.updateProjectionMatrix();
  const away = from.clone().normalize();
  const middle = stage.extent.getCenter(new Vector3());
  camera.position.copy(middle).add(away);
  camera.lookAt(middle);
  camera.updateMatrixWorld();
  framePerspective(camera, places, middle, away, aspect, MARGIN);
  camera.lookAt(middle);
  return { camera, middle };
}

/** A picture as fine as any, with a shadow but in parallel looks. The stage's own size and ground are other ones then. */
export function photographed(
  stage: Stage,
  { camera, middle, ground, width, height }: Shot,
): HTMLCanvasElement {
  const canvas = document.createElement("canvas");
  Object.assign(canvas, { width, height });
  stage.drawPlainly(false);
  stage.castShadow();
  stage.paleLines(camera);
  stage.renderer.setClearColor(ground);
  // Drawn twice as large, so that edges are smooth.
  stage.renderer.setPixelRatio(2);
  stage.renderer.setSize(width, height, false);
  stage.draw(camera, camera instanceof PerspectiveCamera);
  if (!stage.extent.isEmpty()) {
    const next = stage.beginCreases(camera, width, height, metresAt(camera, middle, height));
    while (!next(height));
    stage.layCreases();
  }
  canvas.getContext("2d")?.drawImage(stage.renderer.domElement, 0, 0, width, height);
  return canvas;
}
