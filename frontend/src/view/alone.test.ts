import { BoxGeometry, BufferAttribute, InstancedMesh, Matrix4, MeshBasicMaterial, Object3D } from "three";
import { beforeEach, describe, expect, it } from "vitest";
import { type Catalogue, setCatalogue } from "../api/catalogue";
import { keepInstances, keepPlaces, keptOf, showAlone } from "./alone";
import type { Drawn } from "./layers";
import type { Viewport } from "./viewport";

const layer = (name: string, thing: string) => ({ name, thing, title: name, shown: true });

beforeEach(() =>
  setCatalogue({
    types: [
      {
        name: "Structure",
        layers: [layer("members", "member"), layer("nodes", "node")],
        measures: [],
        things: ["member", "node"],
      },
      { name: "Shape", layers: [layer("surface", "")], measures: [], things: [] },
    ],
    schedules: [],
    pack_groups: [],
    marks: [],
    units: [],
    materials: [],
  } as unknown as Catalogue),
);

describe("things shown alone", () => {
  it("are told layer by layer", () => {
    const kept = keptOf(
      ["f/members", "f/nodes", "g/members"],
      new Set(["f/member/3", "f/member/5", "g/node/1"]),
    );
    expect([...kept]).toEqual([["f/members", new Set([3, 5])]]);
  });

  it("are all that is left of copies, which come back as they were", () => {
    const mesh = new InstancedMesh(new BoxGeometry(), new MeshBasicMaterial(), 3);
    for (const k of [0, 1, 2]) mesh.setMatrixAt(k, new Matrix4().makeTranslation(k, 0, 0));
    const before = [...mesh.instanceMatrix.array];
    keepInstances(mesh, (k) => 10 + k, new Set([11]));
    const sizes = [0, 1, 2].map((k) => mesh.instanceMatrix.array[16 * k]);
    expect(sizes).toEqual([0, 1, 0]);
    keepInstances(mesh, (k) => 10 + k, null);
    expect([...mesh.instanceMatrix.array]).toEqual(before);
  });

  it("are all that is left of triangles, whose order stays", () => {
    const whole = [0, 1, 2, 3, 4, 5];
    const index = new BufferAttribute(new Uint16Array(whole), 1);
    keepPlaces(index, whole, (place) => Math.floor(place / 3), new Set([1]));
    expect([...index.array]).toEqual([0, 0, 0, 3, 4, 5]);
    keepPlaces(index, whole, (place) => Math.floor(place / 3), null);
    expect([...index.array]).toEqual(whole);
  });

  it("hide what has no part of its own for each thing, until all are shown again", () => {
    const told: unknown[] = [];
    const drawn: Record<string, Drawn> = {
      "f/members": { object: new Object3D(), paint: () => {}, only: (kept) => told.push(kept) },
      "f/nodes": { object: new Object3D(), paint: () => {}, only: (kept) => told.push(kept) },
      "s/surface": { object: new Object3D(), paint: () => {} },
    };
    const view = {
      layerNames: () => Object.keys(drawn),
      layer: (name: string) => drawn[name],
      draw: () => {},
    } as unknown as Viewport;
    const seen = () => Object.values(drawn).map(({ object }) => object.visible);
    showAlone(view, new Set(["f/member/7"]));
    expect(seen()).toEqual([true, false, false]);
    expect(told).toEqual([new Set([7])]);
    showAlone(view, null);
    expect(seen()).toEqual([true, true, true]);
    expect(told).toEqual([new Set([7]), null, null]);
    showAlone(view, null);
    expect(told).toHaveLength(3);
  });
});
