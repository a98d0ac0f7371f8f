/** Objects that draw what the server sent, one builder a layer. */
import {
  BufferAttribute,
  BufferGeometry,
  type Camera,
  Color,
  DoubleSide,
  Group,
  IcosahedronGeometry,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  type Material,
  Matrix4,
  Mesh,
  MeshLambertMaterial,
  type Object3D,
  Vector3,
} from "three";
import type { Numbers, SectionShape, Shown } from "../live/decode";
import { PALETTE } from "./palette";

/** What a drawn object knows of the things in it. */
export interface Drawn {
  object: Object3D;
  /** Gives each thing its colour; `null` stands for its own. */
  paint: (colours: (Color | null)[] | null) => void;
  /** Gives each point of a shape its colour, or tells its two sides apart. */
  shade?: (colours: Color[] | null, told?: boolean) => void;
  /** Moves things by a matrix each, `null` standing for where they are, bent ones made flat by a share first; all back
   * without any. Whether anything had to be moved. */
  carry?: (matrices: (Matrix4 | null)[] | null, unbent?: number[]) => boolean;
  /** Lines that are left out of pictures with few pixels. */
  outlines?: Object3D;
  /** Told where the picture is taken from, before it is. */
  seenFrom?: (camera: Camera) => void;
  /** Number of the thing a ray hit. */
  hit?: (instance: number | undefined, face: number | undefined, mesh: Object3D) => number;
}

export const bit = (bits: Numbers, i: number) => (bits[i >> 3]! >> (i & 7)) & 1;

export const at = (positions: Numbers, i: number, into = new Vector3()) =>
  into.set(positions[3 * i]!, positions[3 * i + 1]!, positions[3 * i + 2]!);

function unfold(bytes: Numbers, i: number, into: Vector3): Vector3 {
  const x = bytes[2 * i]! / 127;
  const y = bytes[2 * i + 1]! / 127;
  const z = 1 - Math.abs(x) - Math.abs(y);
  const t = Math.max(-z, 0);
  return into.set(x - Math.sign(x || 1) * t, y - Math.sign(y || 1) * t, z).normalize();
}

/** A section drawn along x from 0 to 1. A round one shares its corners between sides, which halves the work of drawing. */
function bar(section: SectionShape): BufferGeometry {
  const n = section.outline.length;
  const positions: number[] = [];
  const normals: number[] = [];
  const index: number[] = [];
  const corner = (y: number, z: number, across: [number, number]) => {
    const size = Math.hypot(...across) || 1;
    for (const x of [0, 1]) {
      positions.push(x, y, z);
      normals.push(0, across[0] / size, across[1] / size);
    }
  };
  section.outline.forEach(([y, z], k) => {
    const [y1, z1] = section.outline[(k + 1) % n]!;
    const [a, b] = section.round ? [2 * k, 2 * ((k + 1) % n)] : [4 * k, 4 * k + 2];
    corner(y, z, section.round ? [y, z] : [z1 - z, y - y1]);
    if (!section.round) corner(y1, z1, [z1 - z, y - y1]);
    index.push(a, b, b + 1, a, b + 1, a + 1);
  });
  for (const x of [0, 1]) {
    const base = positions.length / 3;
    for (const [y, z] of section.outline) {
      positions.push(x, y, z);
      normals.push(x ? 1 : -1, 0, 0);
    }
    for (let k = 1; k + 1 < n; k++)
      index.push(base, x ? base + k : base + k + 1, x ? base + k + 1 : base + k);
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(positions), 3));
  geometry.setAttribute("normal", new BufferAttribute(new Float32Array(normals), 3));
  geometry.setIndex(index);
  return geometry;
}

/** The member that a piece is of: each its own where nothing else is said. */
export function memberOfPiece({ arrays }: Pick<Shown, "arrays">): (piece: number) => number {
  const { member } = arrays;
  return member ? (piece) => member[piece]! : (piece) => piece;
}

/** Of one or two sections a bit tells which, of more a byte. */
function sectionAt(sections: number, sectionOf: Numbers, member: number): number {
  if (sections > 2) return sectionOf[member]!;
  return sections > 1 ? bit(sectionOf, member) : 0;
}

/** Straight pieces of members as their real sections, cut back at the nodes. */
export function drawMembers(shown: Shown): Drawn {
  const { positions, axis: axes, pieces, setBacks, ups, sectionOf } = shown.arrays as Record<string, Numbers>;
  const places = axes ?? positions!;
  const member = memberOfPiece(shown);
  const sections = shown.meta.sections ?? [];
  const count = pieces!.length / 2;
  const group = new Group();
  const own: Color[] = [];
  const meshes = sections.map((section, s) => {
    const mine: number[] = [];
    for (let p = 0; p < count; p++) if (sectionAt(sections.length, sectionOf!, member(p)) === s) mine.push(p);
    const mesh = new InstancedMesh(bar(section), new MeshLambertMaterial(), mine.length);
    const [a, b, axis, up, side] = [
      new Vector3(),
      new Vector3(),
      new Vector3(),
      new Vector3(),
      new Vector3(),
    ];
    const matrix = new Matrix4();
    const colour = new Color(s === 0 ? PALETTE.member : PALETTE.edge);
    mine.forEach((p, k) => {
      at(places, pieces![2 * p]!, a);
      at(places, pieces![2 * p + 1]!, b);
      axis.subVectors(b, a);
      const length = axis.length();
      axis.divideScalar(length);
      unfold(ups!, p, up);
      up.addScaledVector(axis, -up.dot(axis)).normalize();
      side.crossVectors(up, axis);
      const [from, to] = [setBacks![2 * p]! / 1e4, setBacks![2 * p + 1]! / 1e4];
      a.addScaledVector(axis, from).addScaledVector(up, section.lift);
      matrix.makeBasis(axis.multiplyScalar(Math.max(length - from - to, 0)), side, up).setPosition(a);
      mesh.setMatrixAt(k, matrix);
      mesh.setColorAt(k, colour);
      own[member(p)] = colour;
    });
    mesh.userData.things = mine.map(member);
    mesh.computeBoundingSphere();
    group.add(mesh);
    return mesh;
  });
  return {
    object: group,
    paint: (colours) => {
      for (const mesh of meshes) {
        (mesh.userData.things as number[]).forEach((m, k) => {
          mesh.setColorAt(k, colours?.[m] ?? own[m]!);
        });
        if (mesh.instanceColor) mesh.instanceColor.needsUpdate = true;
      }
    },
    hit: (instance, _, mesh) => (mesh.userData.things as number[])[instance ?? 0] ?? 0,
  };
}

export function drawNodes(shown: Shown): Drawn {
  const positions = shown.arrays.positions!;
  const count = positions.length / 3;
  const size = Math.max(
    ...(shown.meta.sections ?? []).flatMap((s) => s.outline.map(([y, z]) => Math.hypot(y, z))),
    0.02,
  );
  const mesh = new InstancedMesh(new IcosahedronGeometry(size * 0.85, 1), new MeshLambertMaterial(), count);
  const matrix = new Matrix4();
  const own = new Color(PALETTE.node);
  for (let i = 0; i < count; i++) {
    mesh.setMatrixAt(
      i,
      matrix.makeTranslation(positions[3 * i]!, positions[3 * i + 1]!, positions[3 * i + 2]!),
    );
    mesh.setColorAt(i, own);
  }
  mesh.computeBoundingSphere();
  return {
    object: mesh,
    paint: (colours) => {
      for (let i = 0; i < count; i++) mesh.setColorAt(i, colours?.[i] ?? own);
      if (mesh.instanceColor) mesh.instanceColor.needsUpdate = true;
    },
    hit: (instance) => instance ?? 0,
  };
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
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
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
  return new LineSegments(geometry, new LineBasicMaterial({ color }));
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
    if (o.material.type !== fresh[k]!.material.type) return;
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
