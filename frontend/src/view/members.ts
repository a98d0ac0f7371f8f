/** Members and nodes of structures, and the bodies at nodes. */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  CylinderGeometry,
  Group,
  IcosahedronGeometry,
  InstancedBufferAttribute,
  InstancedMesh,
  Matrix4,
  Mesh,
  MeshLambertMaterial,
  SphereGeometry,
  SRGBColorSpace,
  Vector3,
} from "three";
import { mergeVertices } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import type { Numbers, SectionShape, Shown } from "../live/decode";
import { type Kept, keepInstances, keepPlaces } from "./alone";
import { bar, plainBar } from "./bar";
import { finished } from "./finishes";
import { at, bit, type Drawn, unfold } from "./layers";
import { PALETTE } from "./palette";
import { plainFor } from "./plain";

/** In the place of a normal where no plane cuts an end. */
const NO_PLANE = -128;

/** How much further along its axis the two planes at an end take each metre of width and of height; `way` tells whether
 * the axis leads into the member there. */
export function slopesOf(
  normals: Numbers,
  end: number,
  axis: Vector3,
  side: Vector3,
  up: Vector3,
  way: 1 | -1,
): number[] {
  const normal = new Vector3();
  return [0, 1].flatMap((plane) => {
    const k = 2 * end + plane;
    if (normals[2 * k] === NO_PLANE) return [0, 0];
    unfold(normals, k, normal);
    const into = way * normal.dot(axis);
    return [-normal.dot(side) / into, -normal.dot(up) / into];
  });
}

/** How far beyond the plane at its side, a metre or so along the piece, the surface of a tube lies at a place of a
 * section that an end of it fits: of the radius, and how far aside by the three next numbers. */
const DEPTH = `float depth(vec4 tube, vec2 place) {
  float aside = tube.y + dot(tube.zw, place);
  return tube.x - sqrt(max(tube.x * tube.x - aside * aside, 0.0));
}`;

/** What the shader does to the corners of a piece: sections swell, then planes or tubes that they fit cut the ends, where
 * every corner goes on to the one that takes more of it. */
const SHAPED = {
  swells: {
    attributes: "attribute vec2 swell;",
    code: "transformed.yz *= position.x < 0.5 ? swell.x : swell.y;",
  },
  isCut: {
    attributes: "attribute vec4 cutStart;\nattribute vec4 cutEnd;",
    code: `bool atStart = position.x < 0.5;
        vec4 slopes = atStart ? cutStart : cutEnd;
        float back = max(dot(slopes.xy, transformed.yz), dot(slopes.zw, transformed.yz));
        transformed.x += (atStart ? back : -back) / max(length(instanceMatrix[0].xyz), 1e-6);`,
  },
  fits: {
    attributes: `attribute vec4 cutStart;
        attribute vec4 cutEnd;
        attribute vec4 tubeStart;
        attribute vec4 tubeStart2;
        attribute vec4 tubeEnd;
        attribute vec4 tubeEnd2;
        attribute vec4 onAxis;
        ${DEPTH}`,
    code: `bool atStart = position.x < 0.5;
        vec4 slopes = atStart ? cutStart : cutEnd;
        vec2 low = atStart ? onAxis.xy : onAxis.zw;
        low.x += dot(slopes.xy, transformed.yz) - depth(atStart ? tubeStart : tubeEnd, transformed.yz);
        low.y += dot(slopes.zw, transformed.yz) - depth(atStart ? tubeStart2 : tubeEnd2, transformed.yz);
        float back = max(low.x, low.y);
        transformed.x += (atStart ? back : -back) / max(length(instanceMatrix[0].xyz), 1e-6);`,
  },
} as const;

/** The attributes for the tubes that the two cuts at the start and at the end of a piece fit. */
const TUBES = ["tubeStart", "tubeStart2", "tubeEnd", "tubeEnd2"];

/** Numbers that tell of each cut which tube it fits: four for the shader, and where it meets the axis. */
const OF_TUBE = 5;

/** What `fits` takes of the two cuts at both ends of a piece, by its attributes. */
export function tubesOf(saddles: Numbers, piece: number): { tubes: number[][]; onAxis: number[] } {
  const cuts = [0, 1, 2, 3].map((k) => {
    const first = (4 * piece + k) * OF_TUBE;
    return Array.from(saddles.subarray(first, first + OF_TUBE));
  });
  return { tubes: cuts.map((cut) => cut.slice(0, 4)), onAxis: cuts.map((cut) => -cut[4]!) };
}

/** The material of members of a finish, whose sections perhaps swell, or whose ends planes cut or fit tubes. */
function shaped(finish: string, which: Record<keyof typeof SHAPED, boolean>): MeshLambertMaterial {
  const used = (["swells", "isCut", "fits"] as const).filter((key) => which[key]);
  const material = finished(finish, { name: ["member", ...used].join(" ") }, true);
  if (!used.length) return material;
  const told = (part: "attributes" | "code") => used.map((key) => SHAPED[key][part]).join("\n");
  const key = material.customProgramCacheKey();
  const finishedBy = material.onBeforeCompile;
  material.customProgramCacheKey = () => [key, ...used].join(" ");
  material.onBeforeCompile = (shader, renderer) => {
    finishedBy.call(material, shader, renderer);
    shader.vertexShader = shader.vertexShader
      .replace("void main() {", `${told("attributes")}\nvoid main() {`)
      .replace("#include <begin_vertex>", `#include <begin_vertex>\n${told("code")}`);
  };
  return material;
}

/** The section's scale where a piece's set-backs leave its two ends, of that at its ends. */
export function swellOf(
  start: number,
  end: number,
  length: number,
  from: number,
  to: number,
): [number, number] {
  const grows = (end - start) / Math.max(length, 1e-9);
  return [start + grows * from, end - grows * to];
}

/** What members of a section are drawn in: those along edges darker than others. */
export function colourOf({ look, edge }: Pick<SectionShape, "look" | "edge">): Color {
  if (!look) return new Color(edge ? PALETTE.edge : PALETTE.member);
  const [red, green, blue] = look.map((part) => part / 255) as [number, number, number];
  const colour = new Color().setRGB(red, green, blue, SRGBColorSpace);
  return edge ? colour.multiplyScalar(0.6) : colour;
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
  const {
    positions,
    axis: axes,
    pieces,
    setBacks,
    ups,
    sectionOf,
    cutNormals,
    saddles,
    scales,
  } = shown.arrays as Record<string, Numbers>;
  const places = axes ?? positions!;
  const member = memberOfPiece(shown);
  const sections = shown.meta.sections ?? [];
  const count = pieces!.length / 2;
  const group = new Group();
  const own: Color[] = [];
  const meshes = sections.map((section, s) => {
    const mine: number[] = [];
    for (let p = 0; p < count; p++) if (sectionAt(sections.length, sectionOf!, member(p)) === s) mine.push(p);
    const geometry = bar(section, Boolean(cutNormals));
    const material = shaped(section.finish, {
      swells: Boolean(scales),
      isCut: Boolean(cutNormals && !saddles),
      fits: Boolean(saddles),
    });
    const mesh = new InstancedMesh(geometry, material, mine.length);
    const swells = new Float32Array(scales ? 2 * mine.length : 0);
    const slopes = [0, 1].map(() => new Float32Array(cutNormals ? 4 * mine.length : 0));
    const tubes = TUBES.map(() => new Float32Array(saddles ? 4 * mine.length : 0));
    const onAxes = new Float32Array(saddles ? 4 * mine.length : 0);
    const [a, b, axis, up, side] = [
      new Vector3(),
      new Vector3(),
      new Vector3(),
      new Vector3(),
      new Vector3(),
    ];
    const matrix = new Matrix4();
    const colour = colourOf(section);
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
      if (scales) swells.set(swellOf(scales[2 * p]!, scales[2 * p + 1]!, length, from, to), 2 * k);
      if (cutNormals)
        for (const end of [0, 1])
          slopes[end]!.set(slopesOf(cutNormals, 2 * p + end, axis, side, up, end ? -1 : 1), 4 * k);
      if (saddles) {
        const fits = tubesOf(saddles, p);
        fits.tubes.forEach((tube, cut) => {
          tubes[cut]!.set(tube, 4 * k);
        });
        onAxes.set(fits.onAxis, 4 * k);
      }
      matrix.makeBasis(axis.multiplyScalar(Math.max(length - from - to, 0)), side, up).setPosition(a);
      mesh.setMatrixAt(k, matrix);
      mesh.setColorAt(k, colour);
      own[member(p)] = colour;
    });
    if (scales) geometry.setAttribute("swell", new InstancedBufferAttribute(swells, 2));
    if (cutNormals) {
      geometry.setAttribute("cutStart", new InstancedBufferAttribute(slopes[0]!, 4));
      geometry.setAttribute("cutEnd", new InstancedBufferAttribute(slopes[1]!, 4));
    }
    if (saddles) {
      TUBES.forEach((name, cut) => {
        geometry.setAttribute(name, new InstancedBufferAttribute(tubes[cut]!, 4));
      });
      geometry.setAttribute("onAxis", new InstancedBufferAttribute(onAxes, 4));
    }
    mesh.userData.things = mine.map(member);
    mesh.computeBoundingSphere();
    group.add(mesh);
    return mesh;
  });
  const { object: plain, plainly } = plainFor(meshes.map((mesh, s) => [mesh, plainBar(sections[s]!)]));
  group.add(plain);
  return {
    object: group,
    plainly,
    paint: (colours) => {
      for (const mesh of meshes) {
        (mesh.userData.things as number[]).forEach((m, k) => {
          mesh.setColorAt(k, colours?.[m] ?? own[m]!);
        });
        if (mesh.instanceColor) mesh.instanceColor.needsUpdate = true;
      }
    },
    only: (kept) => {
      for (const mesh of meshes) keepInstances(mesh, (k) => (mesh.userData.things as number[])[k]!, kept);
    },
    hit: (instance, _, mesh) => (mesh.userData.things as number[])[instance ?? 0] ?? 0,
  };
}

/** A ball whose corners are shared by its sides: of thousands most time goes into corners. Each of its twenty sides is
 * parted so many times. */
export function ballOf(radius: number, parted: number): BufferGeometry {
  const ball = new IcosahedronGeometry(radius, parted);
  ball.deleteAttribute("uv");
  return mergeVertices(ball);
}

export function drawNodes(shown: Shown): Drawn {
  const positions = shown.arrays.positions!;
  const count = positions.length / 3;
  const size = Math.max(
    ...(shown.meta.sections ?? []).flatMap((s) => s.outlines.flat().map(([y, z]) => Math.hypot(y, z))),
    0.02,
  );
  const radius = size * 0.85;
  const mesh = new InstancedMesh(ballOf(radius, 1), new MeshLambertMaterial(), count);
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
  const { object: plain, plainly } = plainFor([[mesh, ballOf(radius, 0)]]);
  return {
    object: new Group().add(mesh, plain),
    plainly,
    paint: (colours) => {
      for (let i = 0; i < count; i++) mesh.setColorAt(i, colours?.[i] ?? own);
      if (mesh.instanceColor) mesh.instanceColor.needsUpdate = true;
    },
    only: (kept) => keepInstances(mesh, (k) => k, kept),
    hit: (instance) => instance ?? 0,
  };
}

/** Bodies at nodes: round ones as copies of one form, plates one by one. */
export function drawBodies(shown: Shown): Drawn | null {
  const { bodyNodes, bodyPlaces, bodySizes, bodyAxes, bodyOutlines } = shown.arrays as Record<
    string,
    Numbers
  >;
  if (!bodyNodes) return null;
  if (bodyOutlines) return drawPlates(shown);
  const isBall = shown.meta.bodies === "ball";
  const form = isBall
    ? new SphereGeometry(1, 20, 12)
    : new CylinderGeometry(1, 1, 1, 24).rotateX(Math.PI / 2);
  const mesh = new InstancedMesh(form, finished("metal", {}, true), bodyNodes.length);
  const [place, normal, side, across] = [new Vector3(), new Vector3(), new Vector3(), new Vector3()];
  const matrix = new Matrix4();
  bodyNodes.forEach((_, k) => {
    at(bodyPlaces!, k, place);
    unfold(bodyAxes!, k, normal);
    side.set(1, 0, 0);
    if (Math.abs(normal.x) > 0.9) side.set(0, 1, 0);
    across.crossVectors(normal, side).normalize();
    side.crossVectors(across, normal);
    const [radius, height] = [bodySizes![2 * k]!, bodySizes![2 * k + 1]!];
    const along = isBall ? radius : height;
    matrix.makeBasis(
      side.multiplyScalar(radius),
      across.multiplyScalar(radius),
      normal.multiplyScalar(along),
    );
    mesh.setMatrixAt(k, matrix.setPosition(place));
  });
  const own = new Color(PALETTE.node);
  const paint = (colours: (Color | null)[] | null) => {
    bodyNodes.forEach((node, k) => {
      mesh.setColorAt(k, colours?.[node] ?? own);
    });
    if (mesh.instanceColor) mesh.instanceColor.needsUpdate = true;
  };
  paint(null);
  mesh.computeBoundingSphere();
  const only = (kept: Kept) => keepInstances(mesh, (k) => bodyNodes[k]!, kept);
  const few = isBall ? ballOf(1, 0) : new CylinderGeometry(1, 1, 1, 6).rotateX(Math.PI / 2);
  const { object: plain, plainly } = plainFor([[mesh, few]]);
  const object = new Group().add(mesh, plain);
  return { object, paint, plainly, only, hit: (instance) => bodyNodes[instance ?? 0]! };
}

function drawPlates(shown: Shown): Drawn {
  const { bodyNodes, bodyPlaces, bodySizes, bodyAxes, bodyOutlines, bodyCorners } = shown.arrays as Record<
    string,
    Numbers
  >;
  const places: number[] = [];
  const plateOf: number[] = [];
  const [place, normal, a] = [new Vector3(), new Vector3(), new Vector3()];
  let start = 0;
  bodyNodes!.forEach((_, k) => {
    const n = bodyCorners![k]!;
    at(bodyPlaces!, k, place);
    unfold(bodyAxes!, k, normal).multiplyScalar(bodySizes![2 * k + 1]! / 2);
    const corner = (i: number, side: 1 | -1, into: Vector3) =>
      at(bodyOutlines!, start + (i % n), into)
        .add(place)
        .addScaledVector(normal, side);
    const triangle = (...corners: [number, 1 | -1][]) => {
      for (const [i, side] of corners) places.push(...corner(i, side, a).toArray());
      plateOf.push(k);
    };
    for (let i = 1; i + 1 < n; i++) {
      triangle([0, 1], [i, 1], [i + 1, 1]);
      triangle([0, -1], [i + 1, -1], [i, -1]);
    }
    for (let i = 0; i < n; i++) {
      triangle([i, -1], [i + 1, -1], [i + 1, 1]);
      triangle([i, -1], [i + 1, 1], [i, 1]);
    }
    start += n;
  });
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(new Float32Array(places), 3));
  geometry.computeVertexNormals();
  const colours = new BufferAttribute(new Float32Array(places.length), 3);
  geometry.setAttribute("color", colours);
  const own = new Color(PALETTE.node);
  const paint = (given: (Color | null)[] | null) => {
    plateOf.forEach((k, t) => {
      const c = given?.[bodyNodes![k]!] ?? own;
      for (let i = 0; i < 3; i++) colours.setXYZ(3 * t + i, c.r, c.g, c.b);
    });
    colours.needsUpdate = true;
  };
  paint(null);
  const mesh = new Mesh(geometry, finished("metal", { vertexColors: true }));
  const whole = Uint32Array.from({ length: 3 * plateOf.length }, (_, k) => k);
  geometry.setIndex(new BufferAttribute(whole.slice(), 1));
  const nodeAt = (place: number) => bodyNodes![plateOf[Math.floor(place / 3)]!]!;
  const only = (kept: Kept) => keepPlaces(geometry.index!, whole, nodeAt, kept);
  return { object: mesh, paint, only, hit: (_, face) => bodyNodes![plateOf[face ?? 0]!]! };
}
