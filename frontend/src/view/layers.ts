/** Objects that draw what the server sent, one builder a layer. */
import {
  BufferAttribute,
  BufferGeometry,
  type Camera,
  Color,
  DoubleSide,
  Group,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  type Material,
  type Matrix4,
  Mesh,
  MeshLambertMaterial,
  type Object3D,
  Vector3,
} from "three";
import type { Numbers, Shown } from "../live/decode";
import { PALETTE } from "./palette";

/** What a drawn object knows of the things in it. */
export interface Drawn {
  object: Object3D;
  /** Gives each thing its colour; `null` stands for its own. */
  paint: (colours: (Color | null)[] | null) => void;
  /** Gives each point of a shape its colour, or tells its two sides apart. */
  shade?: (colours: Color[] | null, told?: boolean) => void;
  /** Tells the outside, the inside and what is between them apart by colours; whether it knows them. */
  tellSides?: (told: boolean) => boolean;
  /** Moves things by a matrix each, `null` standing for where they are, bent ones made flat by a share first; all back
   * without any. Whether anything had to be moved. */
  carry?: (matrices: (Matrix4 | null)[] | null, unbent?: number[]) => boolean;
  /** Moves things by so much each, or all back. Whether anything had to be moved. */
  spread?: (moves: Vector3[] | null) => boolean;
  /** Leaves out of the picture all but some things; none where it is given none. */
  only?: (kept: ReadonlySet<number> | null) => void;
  /** Lines that are left out of pictures with few pixels. */
  outlines?: Object3D;
  /** Has plain forms drawn, or things as they are. */
  plainly?: (plain: boolean) => void;
  /** Told where the picture is taken from, before it is. */
  seenFrom?: (camera: Camera) => void;
  /** Number of the thing a ray hit. */
  hit?: (instance: number | undefined, face: number | undefined, mesh: Object3D) => number;
}

export const bit = (bits: Numbers, i: number) => (bits[i >> 3]! >> (i & 7)) & 1;

export const at = (positions: Numbers, i: number, into = new Vector3()) =>
  into.set(positions[3 * i]!, positions[3 * i + 1]!, positions[3 * i + 2]!);

export function unfold(bytes: Numbers, i: number, into: Vector3): Vector3 {
  const x = bytes[2 * i]! / 127;
  const y = bytes[2 * i + 1]! / 127;
  const z = 1 - Math.abs(x) - Math.abs(y);
  const t = Math.max(-z, 0);
  return into.set(x - Math.sign(x || 1) * t, y - Math.sign(y || 1) * t, z).normalize();
}

/** Colours of the two sides of a shape: always a little apart, and told clearly apart when asked for. */
const SIDES = {
  plain: [PALETTE.surface, PALETTE.surfaceInside],
  told: [PALETTE.outside, PALETTE.inside],
} as const;

export function twoSided(): MeshLambertMaterial {
  const material = new MeshLambertMaterial({
    vertexColors: true,
    side: DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 2,
    polygonOffsetUnits: 6,
  });
  const inside = { value: new Color(1, 1, 1) };
  material.userData.inside = inside;
  // Seen from inside, the colour is multiplied by that of the inside against that of the outside.
  material.onBeforeCompile = (shader) => {
    shader.uniforms.insideTint = inside;
    shader.fragmentShader = shader.fragmentShader
      .replace("void main() {", "uniform vec3 insideTint;\nvoid main() {")
      .replace(
        "#include <color_fragment>",
        "#include <color_fragment>\nif (!gl_FrontFacing) diffuseColor.rgb *= insideTint;",
      );
  };
  return material;
}

/** Lines between some of a shape's points. */
export function linesOver(
  places: BufferAttribute,
  pairs: Numbers | Uint32Array,
  color: string,
): LineSegments {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", places);
  geometry.setIndex(new BufferAttribute(pairs as Uint16Array, 1));
  const lines = new LineSegments(geometry, new LineBasicMaterial({ color }));
  // What is picked is what they lie on.
  lines.raycast = () => {};
  return lines;
}

/** The even lines of u and v over a shape, or those between the faces of a coarse mesh. */
export function drawLines(shown: Shown): Drawn {
  const { positions, lines } = shown.arrays as Record<string, Numbers>;
  const places = new BufferAttribute(positions as Float32Array, 3);
  return { object: linesOver(places, lines!, "#978f75"), paint: () => {} };
}

/** A shape as triangles with its borders and creases. Its colours stand at its points. */
export function drawSurface(shown: Shown): Drawn {
  const { positions, normals, triangles, borders } = shown.arrays as Record<string, Numbers>;
  const count = positions!.length / 3;
  const place = new BufferAttribute(positions as Float32Array, 3);
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", place);
  geometry.setAttribute("normal", new BufferAttribute(normals as Int8Array, 3, true));
  geometry.setIndex(new BufferAttribute(triangles as Uint16Array, 1));
  const colours = new BufferAttribute(new Float32Array(3 * count), 3);
  geometry.setAttribute("color", colours);
  const mesh = new Mesh(geometry, twoSided());
  const group = new Group();
  group.add(mesh, linesOver(place, borders!, "#766e55"));
  const own = new Color();
  const shade = (given: Color[] | null, told = false) => {
    const [outside, inside] = SIDES[told ? "told" : "plain"];
    own.set(outside);
    for (let i = 0; i < count; i++) {
      const c = given?.[i] ?? own;
      colours.setXYZ(i, c.r, c.g, c.b);
    }
    colours.needsUpdate = true;
    const tint = (mesh.material as MeshLambertMaterial).userData.inside?.value as Color | undefined;
    const back = new Color(inside);
    // A figure's colour is the same from either side.
    if (given) tint?.setRGB(1, 1, 1);
    else tint?.setRGB(back.r / own.r, back.g / own.g, back.b / own.b);
  };
  shade(null);
  return { object: group, paint: () => {}, shade, hit: () => 0 };
}

/** What has no drawing of its own: its triangles and lines, in one colour. */
export function drawPlain(shown: Shown): Drawn {
  const { positions, triangles, lines } = shown.arrays as Record<string, Numbers>;
  const place = new BufferAttribute(positions as Float32Array, 3);
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", place);
  geometry.setIndex(new BufferAttribute((triangles ?? new Uint16Array()) as Uint16Array, 1));
  geometry.computeVertexNormals();
  const material = new MeshLambertMaterial({ color: PALETTE.surface, side: DoubleSide, polygonOffset: true });
  const group = new Group();
  group.add(new Mesh(geometry, material));
  if (lines) group.add(linesOver(place, lines, PALETTE.member));
  const plain = new Color(PALETTE.surface);
  return {
    object: group,
    paint: (colours) => {
      material.color.copy(colours?.find((c) => c) ?? plain);
    },
    hit: () => 0,
  };
}

/** Curves as lines. */
export function drawCurves(shown: Shown): Drawn {
  const { positions, counts } = shown.arrays as Record<string, Numbers>;
  const index: number[] = [];
  let start = 0;
  for (const n of counts!) {
    for (let k = 0; k + 1 < n; k++) index.push(start + k, start + k + 1);
    start += n;
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(positions as Float32Array, 3));
  geometry.setIndex(index);
  const object = new LineSegments(geometry, new LineBasicMaterial({ color: PALETTE.plum }));
  return { object, paint: () => {} };
}

/** The borders of faces that templates are drawn of; solids that are shown apart leave them behind. */
export function drawTemplates(shown: Shown): Drawn {
  const drawn = drawCurves(shown);
  const spread = (moves: Vector3[] | null) => {
    const changed = drawn.object.visible === Boolean(moves);
    drawn.object.visible = !moves;
    return changed;
  };
  return { ...drawn, spread };
}

type Coloured = (Mesh | LineSegments) & { material: Material };

function coloured(object: Object3D): Coloured[] {
  const out: Coloured[] = [];
  object.traverse((o) => {
    if (o instanceof Mesh || o instanceof LineSegments) out.push(o as Coloured);
  });
  return out;
}

/** Gives a new object the materials of the one it replaces: a fresh material would compile its program anew. */
export function handOn(from: Object3D, to: Object3D) {
  const [old, fresh] = [coloured(from), coloured(to)];
  old.slice(0, fresh.length).forEach((o, k) => {
    const own = fresh[k]!.material;
    // Of one name are those whose programs are alike.
    if (o.material.type !== own.type || o.material.name !== own.name) return;
    fresh[k]!.material.dispose();
    fresh[k]!.material = o.material;
  });
}

/** Lets go of what an object holds on the graphics side. */
export function dispose(object: Object3D, materials: boolean) {
  for (const o of coloured(object)) {
    o.geometry.dispose();
    if (materials) o.material.dispose();
    if (o instanceof InstancedMesh) o.dispose();
  }
}
