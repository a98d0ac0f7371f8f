import { type Box3, BufferAttribute, BufferGeometry, Group, LineBasicMaterial, LineSegments } from "three";
import { PALETTE } from "./palette";

const STEPS = [0.1, 0.5, 1, 5, 10, 50, 100, 500, 1000];

export interface Ground {
  object: Group;
  step: number;
  low: [number, number];
  high: [number, number];
  z: number;
}

/** A graticule on the ground around the model: fine lines at whole numbers of a unit of so many metres, and stronger ones
 * every fifth. */
export function drawGround(box: Box3, unit: number): Ground {
  const size = Math.max(box.max.x - box.min.x, box.max.y - box.min.y, 1);
  const step = unit * (STEPS.find((s) => size / (s * unit) <= 45) ?? 1000);
  const major = step * 5;
  const low: [number, number] = [
    Math.floor(box.min.x / major - 0.5) * major,
    Math.floor(box.min.y / major - 0.5) * major,
  ];
  const high: [number, number] = [
    Math.ceil(box.max.x / major + 0.5) * major,
    Math.ceil(box.max.y / major + 0.5) * major,
  ];
  const z = Math.min(box.min.z, 0);
  const lines: Record<"fine" | "strong", number[]> = { fine: [], strong: [] };
  for (const axis of [0, 1] as const)
    for (let k = 0; k <= Math.round((high[axis] - low[axis]) / step); k++) {
      const c = low[axis] + k * step;
      const strong = Math.abs(c / major - Math.round(c / major)) < 1e-6;
      const [a, b] =
        axis === 0
          ? [
              [c, low[1]],
              [c, high[1]],
            ]
          : [
              [low[0], c],
              [high[0], c],
            ];
      lines[strong ? "strong" : "fine"].push(a[0]!, a[1]!, z, b[0]!, b[1]!, z);
    }
  const object = new Group();
  for (const kind of ["fine", "strong"] as const) {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(new Float32Array(lines[kind]), 3));
    const colour = kind === "fine" ? "#d6e0e3" : PALETTE.graticule;
    object.add(new LineSegments(geometry, new LineBasicMaterial({ color: colour })));
  }
  return { object, step: major, low, high, z };
}
