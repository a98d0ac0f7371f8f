/** Small drawings of values that go together: what is drawn, and the line each value measures. */

export interface Mark {
  /** The line that shows what the value measures. */
  d: string;
  /** Where it is told, and whether from there on (start), about it, or up to it (end). */
  at: [number, number];
  anchor?: "start" | "middle" | "end";
}

export interface Sketch {
  title: string;
  /** Filled areas of what is made. */
  parts: string[];
  /** Lines of what is beside or behind it. */
  behind: string[];
  marks: Record<string, Mark>;
}

export const [WIDE, HIGH] = [300, 120];

/** By the word of the server for what values are drawn in. */
export const SKETCHES: Record<string, Sketch> = {
  slot: {
    title: "A slot in a rib, and the rib that goes through it",
    parts: ["M10 34H119L126 41V78H158V41L165 34H290V112H10Z"],
    behind: ["M131 8V76h22V8"],
    marks: {
      clearance: { d: "M126 64h5M153 64h5", at: [166, 68] },
      share: { d: "M100 34V78M96 34h8M96 78h8", at: [94, 62], anchor: "end" },
      chamfer: { d: "M119 25h7M119 21v8M126 21v8", at: [114, 22], anchor: "end" },
      tool: { d: "M120 78a6 6 0 1 0 12 0a6 6 0 1 0-12 0", at: [142, 98], anchor: "middle" },
      wall: { d: "M158 50H290M158 46v8M290 46v8", at: [224, 46], anchor: "middle" },
    },
  },
  rib: {
    title: "A rib, open inside, on its feet, with rods through it",
    parts: [
      "M10 20H290V100H250V88H50V100H10ZM40 36a8 8 0 0 0-8 8V66a8 8 0 0 0 8 8H128a8 8 0 0 0 8-8V44a8 8 0 0 0-8-8ZM172 36a8 8 0 0 0-8 8V66a8 8 0 0 0 8 8H240a8 8 0 0 0 8-8V44a8 8 0 0 0-8-8ZM273 55a6 6 0 1 0 .1 0Z",
    ],
    behind: ["M150 4V88", "M4 106H296"],
    marks: {
      border: { d: "M84 20V36M80 20h8M80 36h8", at: [92, 31] },
      radius: { d: "M40 44L34 38", at: [46, 52] },
      foot: { d: "M10 112H50M10 108v8M50 108v8", at: [56, 117] },
      inset: { d: "M250 112H290M250 108v8M290 108v8", at: [244, 117], anchor: "end" },
      rod: { d: "M267 61h12M267 57v8M279 57v8", at: [262, 50], anchor: "end" },
    },
  },
  panels: {
    title: "Two panels over a member, cut through",
    parts: ["M10 30H138V44H10ZM162 30H290V44H162Z", "M126 66a24 24 0 1 0 48 0a24 24 0 1 0-48 0"],
    behind: ["M4 66H296"],
    marks: {
      joint: { d: "M138 22h24M138 18v8M162 18v8", at: [150, 14], anchor: "middle" },
      thickness: { d: "M40 30V44M36 30h8M36 44h8", at: [48, 41] },
      height: { d: "M70 44V66M66 44h8M66 66h8", at: [78, 60] },
      clear: { d: "M174 56h22M174 52v8M196 52v8", at: [202, 60] },
    },
  },
  arms: {
    title: "Two arms of a folded plate, and the members they enter",
    parts: ["M10 44H112L138 50Q150 40 162 50L188 44H290V76H188L162 70Q150 80 138 70L112 76H10Z"],
    behind: ["M10 50H70V70H10", "M290 50H230V70H290", "M112 44V76", "M188 44V76"],
    marks: {
      beyond: { d: "M30 44V50M26 44h8M26 50h8", at: [38, 38] },
      rounding: { d: "M138 50Q150 40 162 50", at: [150, 34], anchor: "middle" },
      fold: { d: "M106 44V76", at: [100, 92], anchor: "middle" },
      gap: { d: "M70 102H230M70 98v8M230 98v8", at: [150, 116], anchor: "middle" },
    },
  },
  nest: {
    title: "Parts on a sheet",
    parts: ["M28 22H120V80H28ZM140 22H230V60H140Z"],
    behind: ["M10 8H290V112H10Z", "M140 72H200V100H140Z"],
    marks: {
      margin: { d: "M10 50h18M10 46v8M28 46v8", at: [34, 46] },
      spacing: { d: "M120 36h20M120 32v8M140 32v8", at: [146, 40] },
      tab: { d: "M166 60h12M166 56v8M178 56v8", at: [184, 58] },
      every: { d: "M40 88H106M40 84v8M106 84v8", at: [72, 102], anchor: "middle" },
    },
  },
};
