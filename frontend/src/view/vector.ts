/** The picture as drawn lines and areas, SVG: what lies nearer covers what lies behind. */
import {
  type BufferAttribute,
  type BufferGeometry,
  type Camera,
  Color,
  InstancedMesh,
  LineSegments,
  type Material,
  Matrix4,
  Mesh,
  type Object3D,
  Vector3,
} from "three";

/** Something drawn: its places in pixels, how far away it is, and its strokes and fill. */
interface Piece {
  places: [number, number][];
  depth: number;
  stroke: string;
  width: number;
  fill: string | null;
  opacity: number;
}

const LINE = 0.7;
/** Lines lie on faces: they are drawn a little nearer, in depths from -1 to 1. */
const NEARER = 2e-4;
/** How dark a face is that is seen from its side. */
const DARKEST = 0.72;

type Project = (place: Vector3) => Vector3;

const colourOf = (colour: Color) => `#${colour.getHexString()}`;
const seen = (...places: Vector3[]) => places.every((p) => p.z > -1 && p.z < 1);

function colourAt(mesh: Mesh | LineSegments, vertex: number): Color {
  const colours = mesh.geometry.getAttribute("color") as BufferAttribute | undefined;
  const own = (mesh.material as Material & { color?: Color }).color ?? new Color("#888888");
  return colours ? new Color().fromBufferAttribute(colours, vertex).multiply(own) : own.clone();
}

/** The numbers of corners of triangles, or ends of lines, in turn. */
function cornersOf(geometry: BufferGeometry): ArrayLike<number> {
  if (geometry.index) return geometry.index.array;
  return Array.from({ length: geometry.getAttribute("position").count }, (_, k) => k);
}

function facesOf(mesh: Mesh, project: Project, away: Vector3): Piece[] {
  const place = mesh.geometry.getAttribute("position") as BufferAttribute;
  const corners = cornersOf(mesh.geometry);
  const material = mesh.material as Material;
  const found: Piece[] = [];
  const world = [new Vector3(), new Vector3(), new Vector3()] as const;
  const [normal, side] = [new Vector3(), new Vector3()];
  for (let t = 0; t + 2 < corners.length; t += 3) {
    if (corners[t] === corners[t + 1]) continue; // left out
    for (const [k, p] of world.entries())
      p.fromBufferAttribute(place, corners[t + k]!).applyMatrix4(mesh.matrixWorld);
    const at = world.map((p) => project(p.clone()));
    if (!seen(...at)) continue;
    normal.subVectors(world[1], world[0]).cross(side.subVectors(world[2], world[0])).normalize();
    const light = DARKEST + (1 - DARKEST) * Math.abs(normal.dot(away));
    const fill = colourOf(colourAt(mesh, corners[t]!).multiplyScalar(light));
    found.push({
      places: at.map((p) => [p.x, p.y]),
      depth: (at[0]!.z + at[1]!.z + at[2]!.z) / 3,
      stroke: fill,
      width: material.transparent ? 0 : 0.4,
      fill,
      opacity: material.transparent ? material.opacity : 1,
    });
  }
  return found;
}

function linesOf(lines: LineSegments, project: Project): Piece[] {
  const place = lines.geometry.getAttribute("position") as BufferAttribute;
  const corners = cornersOf(lines.geometry);
  const found: Piece[] = [];
  for (let k = 0; k + 1 < corners.length; k += 2) {
    const [a, b] = [corners[k]!, corners[k + 1]!].map((i) =>
      project(new Vector3().fromBufferAttribute(place, i).applyMatrix4(lines.matrixWorld)),
    ) as [Vector3, Vector3];
    if (!seen(a, b) || (a.x === b.x && a.y === b.y)) continue;
    found.push({
      places: [
        [a.x, a.y],
        [b.x, b.y],
      ],
      depth: (a.z + b.z) / 2 - NEARER,
      stroke: colourOf(colourAt(lines, corners[k]!)),
      width: LINE,
      fill: null,
      opacity: 1,
    });
  }
  return found;
}

/** Copies of one form, each as a stroke along its longest way, as wide as it is across; of even ones that is a dot. */
function copiesOf(mesh: InstancedMesh, project: Project): Piece[] {
  const own = new Matrix4();
  const colour = new Color();
  mesh.geometry.computeBoundingBox();
  const box = mesh.geometry.boundingBox!;
  const size = box.getSize(new Vector3());
  const middle = box.getCenter(new Vector3());
  const found: Piece[] = [];
  for (let k = 0; k < mesh.count; k++) {
    mesh.getMatrixAt(k, own);
    own.premultiply(mesh.matrixWorld);
    const ways = [0, 1, 2].map((axis) =>
      new Vector3().setFromMatrixColumn(own, axis).multiplyScalar(size.getComponent(axis)),
    );
    const [along, ...across] = [...ways].sort((a, b) => b.lengthSq() - a.lengthSq()) as [
      Vector3,
      Vector3,
      Vector3,
    ];
    const wide = Math.max(...across.map((way) => way.length()));
    if (!(wide > 0)) continue; // left out
    const at = middle.clone().applyMatrix4(own);
    const half = along.clone().setLength(Math.max(along.length() - wide, 0.02 * wide) / 2);
    const [a, b] = [at.clone().sub(half), at.clone().add(half)].map((p) => project(p.clone())) as [
      Vector3,
      Vector3,
    ];
    if (!seen(a, b)) continue;
    // As wide as the form is across, there where it is.
    const beside = project(at.clone().addScaledVector(upright(half), wide / 2));
    const there = project(at.clone());
    if (mesh.instanceColor) mesh.getColorAt(k, colour);
    else colour.copy(colourAt(mesh, 0));
    found.push({
      places: [
        [a.x, a.y],
        [b.x, b.y],
      ],
      depth: (a.z + b.z) / 2 - NEARER / 2,
      stroke: colourOf(colour),
      width: Math.max(LINE, 2 * Math.hypot(beside.x - there.x, beside.y - there.y)),
      fill: null,
      opacity: 1,
    });
  }
  return found;
}

/** A unit direction square to another. */
function upright(way: Vector3): Vector3 {
  const aside = Math.abs(way.z) > 0.9 * way.length() ? new Vector3(1, 0, 0) : new Vector3(0, 0, 1);
  return aside.cross(way).normalize();
}

function isShown(object: Object3D): boolean {
  for (let o: Object3D | null = object; o; o = o.parent) if (!o.visible) return false;
  return true;
}

/** Objects as a camera sees them, as the text of an SVG so many pixels large; `project` tells where places lie in it, z being
 * their depth from -1 to 1. */
export function drawnAsVectors(
  objects: Iterable<Object3D>,
  camera: Camera,
  project: Project,
  [width, height]: [number, number],
  ground: string,
): string {
  const away = camera.getWorldDirection(new Vector3());
  const pieces: Piece[] = [];
  for (const object of objects) {
    object.updateMatrixWorld(true);
    object.traverse((o) => {
      if (!isShown(o)) return;
      if (o instanceof InstancedMesh) pieces.push(...copiesOf(o, project));
      else if (o instanceof Mesh) pieces.push(...facesOf(o, project, away));
      else if (o instanceof LineSegments) pieces.push(...linesOf(o, project));
    });
  }
  pieces.sort((a, b) => b.depth - a.depth);
  const number = (x: number) => Number(x.toFixed(2));
  const told = pieces.map(({ places, stroke, width: wide, fill, opacity }) => {
    const d = places.map(([x, y], k) => `${k ? "L" : "M"}${number(x)} ${number(y)}`).join("");
    const see = opacity < 1 ? ` opacity="${number(opacity)}"` : "";
    const line = wide ? ` stroke="${stroke}" stroke-width="${number(wide)}"` : "";
    return `<path d="${d}${fill ? "Z" : ""}" fill="${fill ?? "none"}"${line}${see}/>`;
  });
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">`,
    `<rect width="${width}" height="${height}" fill="${ground}"/>`,
    '<g stroke-linecap="round" stroke-linejoin="round">',
    ...told,
    "</g></svg>",
    "",
  ].join("\n");
}
