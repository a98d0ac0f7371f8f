/** Binary messages of the live channel: geometry to draw and measures of single things. */

export type Numbers =
  | Float32Array
  | Uint16Array
  | Uint32Array
  | Uint8Array
  | Int8Array
  | Int16Array
  | Int32Array;

const TYPES = {
  "<f4": Float32Array,
  "<u2": Uint16Array,
  "<u4": Uint32Array,
  "|u1": Uint8Array,
  "|i1": Int8Array,
  "<i2": Int16Array,
  "<i4": Int32Array,
} as const;

interface Listed {
  name: string;
  type: keyof typeof TYPES;
  shape: number[];
  offset: number;
}

export interface SectionShape {
  name: string;
  round: boolean;
  /** The colour of its material; what is of steel has the view's own. */
  look: [number, number, number] | null;
  /** How its material takes light. */
  finish: string;
  /** Round each of its pieces, as places along its width and height. */
  outlines: [number, number][][];
  /** From the nodes to the axes, along the heights; where members say their axes it is 0. */
  lift: number;
  /** Whether all of its members are edges. */
  edge: boolean;
}

export interface Meta {
  body?: boolean;
  /** Words by the list they are in, which measures count in. */
  words?: Record<string, string[]>;
  sections?: SectionShape[];
  /** Metres by which panels lie above their net. */
  raised?: number;
  /** Whether panels are sent as they are cut. */
  exact?: boolean;
  /** Colours of materials that things count in. */
  looks?: [number, number, number][];
  /** How they take light. */
  finishes?: string[];
  /** Whether one sees through them. */
  clear?: boolean[];
  /** What kind of bodies are at nodes. */
  bodies?: string;
  prefixes?: Record<string, string>;
  /** Of members, role by role. */
  memberPrefixes?: string[];
  /** Sizes (mm) of sheets, and their places in the order in which they are taken. */
  widths?: number[];
  heights?: number[];
  /** Thickness and material, sheet by sheet. */
  grades?: string[];
  /** Of each sheet whether anything on it is scored. */
  scored?: boolean[];
  slots?: number[];
  used?: number[];
  /** How many parts lie on them of each result that was taken. */
  partsOf?: number[];
  labels?: string[];
  step?: number;
  residual?: number;
}

export interface Shown {
  type: "geometry" | "measures" | "motion";
  key: string;
  /** The type of the result, or the clause whose net moves. */
  of: string;
  meta: Meta;
  arrays: Record<string, Numbers>;
}

export function decode(buffer: ArrayBuffer): Shown {
  const size = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size)));
  const arrays: Record<string, Numbers> = {};
  for (const { name, type, shape, offset } of header.arrays as Listed[]) {
    const count = shape.reduce((a, b) => a * b, 1);
    arrays[name] = new TYPES[type](buffer, 4 + size + offset, count);
  }
  return { type: header.type, key: header.key, of: header.of ?? "", meta: header.meta ?? {}, arrays };
}
