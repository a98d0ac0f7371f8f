/** Plain forms of many copies, all in one: where graphics draw each copy slowly, pictures are quick with these. */
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  type InstancedMesh,
  Matrix3,
  Matrix4,
  Mesh,
  MeshLambertMaterial,
  Vector3,
} from "three";

/** Copies of a form, and a form of few corners in their place; it stands along x from 0 to 1 where they swell. */
export type Copied = [copies: InstancedMesh, plain: BufferGeometry];

/** Every copy of the plain forms in the place and the colour that the copies have. */
export function merged(all: Copied[]): BufferGeometry {
  const count = (of: (plain: BufferGeometry) => number) =>
    all.reduce((sum, [{ count: copies }, plain]) => sum + copies * of(plain), 0);
  const corners = count((plain) => plain.getAttribute("position").count);
  const [places, normals, colours] = [0, 1, 2].map(() => new Float32Array(3 * corners));
  const index = new Uint32Array(count((plain) => plain.index!.count));
  const [matrix, turned, p, own] = [new Matrix4(), new Matrix3(), new Vector3(), new Color(1, 1, 1)];
  let [corner, side] = [0, 0];
  for (const [copies, plain] of all) {
    const [place, normal] = [plain.getAttribute("position"), plain.getAttribute("normal")];
    const swell = copies.geometry.getAttribute("swell");
    for (let k = 0; k < copies.count; k++) {
      copies.getMatrixAt(k, matrix);
      turned.getNormalMatrix(matrix);
      if (copies.instanceColor) copies.getColorAt(k, own);
      for (const v of plain.index!.array) index[side++] = corner + v;
      for (let v = 0; v < place.count; v++, corner++) {
        p.fromBufferAttribute(place, v);
        const wide = swell ? swell.getComponent(k, Math.round(p.x)) : 1;
        p.set(p.x, wide * p.y, wide * p.z)
          .applyMatrix4(matrix)
          .toArray(places!, 3 * corner);
        p.fromBufferAttribute(normal, v)
          .applyMatrix3(turned)
          .normalize()
          .toArray(normals!, 3 * corner);
        own.toArray(colours!, 3 * corner);
      }
    }
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(places!, 3));
  geometry.setAttribute("normal", new BufferAttribute(normals!, 3));
  geometry.setAttribute("color", new BufferAttribute(colours!, 3));
  geometry.setIndex(new BufferAttribute(index, 1));
  return geometry;
}

/** What stands for copies in pictures that would take long, and what has it drawn in their place, or them again. */
export function plainFor(all: Copied[]): { object: Mesh; plainly: (plain: boolean) => void } {
  const object = new Mesh(new BufferGeometry(), new MeshLambertMaterial({ vertexColors: true }));
  object.visible = false;
  // What is picked is what they stand for.
  object.raycast = () => {};
  let made = -1;
  const plainly = (plain: boolean) => {
    if (plain === object.visible) return;
    object.visible = plain;
    for (const [copies] of all) copies.visible = !plain;
    // Copies that were moved, coloured or left out since are merged anew.
    const version = all.reduce(
      (sum, [{ instanceMatrix, instanceColor }]) =>
        sum + instanceMatrix.version + (instanceColor?.version ?? 0),
      0,
    );
    if (!plain || version === made) return;
    made = version;
    object.geometry.dispose();
    object.geometry = merged(all);
  };
  return { object, plainly };
}
