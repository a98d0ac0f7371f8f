import { expect, it } from "vitest";
import { decode } from "./decode";

/** A message as the server writes it: the size of its header, the header padded, and the arrays one after the other. */
function message(header: object, arrays: [string, string, ArrayBufferView][]): ArrayBuffer {
  let offset = 0;
  const listed = arrays.map(([name, type, array]) => {
    const at = offset;
    offset += Math.ceil(array.byteLength / 4) * 4;
    const size = (array as Uint8Array).BYTES_PER_ELEMENT;
    return { name, type, shape: [array.byteLength / size], offset: at };
  });
  let text = JSON.stringify({ ...header, arrays: listed });
  while (new TextEncoder().encode(text).length % 4) text += " ";
  const head = new TextEncoder().encode(text);
  const out = new Uint8Array(4 + head.length + offset);
  new DataView(out.buffer).setUint32(0, head.length, true);
  out.set(head, 4);
  arrays.forEach(([, , array], k) => {
    out.set(new Uint8Array(array.buffer), 4 + head.length + listed[k]!.offset);
  });
  return out.buffer;
}

it("gives arrays of the types they were sent in, without copying them", () => {
  const buffer = message({ type: "geometry", key: "k", of: "Net", meta: { labels: ["é"] } }, [
    ["bits", "|u1", new Uint8Array([1, 2, 3])],
    ["positions", "<f4", new Float32Array([0.5, -1, 2])],
    ["edges", "<u2", new Uint16Array([7, 8])],
  ]);
  const shown = decode(buffer);
  expect(shown).toMatchObject({ type: "geometry", key: "k", of: "Net", meta: { labels: ["é"] } });
  expect([...shown.arrays.bits!]).toEqual([1, 2, 3]);
  expect([...shown.arrays.positions!]).toEqual([0.5, -1, 2]);
  expect(shown.arrays.edges).toBeInstanceOf(Uint16Array);
  expect(shown.arrays.positions!.buffer).toBe(buffer);
});

it("does without what a message has not", () => {
  const shown = decode(message({ type: "motion", key: "m" }, []));
  expect(shown).toEqual({ type: "motion", key: "m", of: "", meta: {}, arrays: {} });
});
