import { describe, expect, it } from "vitest";
import { asCsv, asTabs, cellText, decimalsOf, headerText } from "./cells";

describe("cells of schedules", () => {
  it("have their unit in the header, and words that only look like one stay", () => {
    expect(headerText("cut_length_mm")).toEqual({ title: "cut length", unit: "mm" });
    expect(headerText("area_m2")).toEqual({ title: "area", unit: "m²" });
    expect(headerText("twist_stress_MPa")).toEqual({ title: "twist stress", unit: "MPa" });
    expect(headerText("way_x")).toEqual({ title: "way x", unit: "" });
    expect(headerText("label")).toEqual({ title: "label", unit: "" });
  });

  it("read alike down a column, to a tenth of a millimetre at most", () => {
    const decimals = decimalsOf("width_mm", [12, 12.0456, "—"]);
    expect([12, 12.0456, "—"].map((c) => cellText(c, decimals))).toEqual(["12.0", "12.0", "—"]);
    expect(decimalsOf("x_m", [1.5])).toBe(3);
    expect(decimalsOf("arms", [3, 4])).toBe(0);
    expect(decimalsOf("share", [0.1234])).toBe(3);
  });

  it("are copied and saved with all their decimals", () => {
    const rows = [["N1", 0.123456789, 'a "b", c\td']];
    expect(asTabs(["label", "x_m", "note"], rows)).toBe('label\tx_m\tnote\nN1\t0.123456789\ta "b", c d');
    expect(asCsv(["label", "x_m", "note"], rows)).toBe('label,x_m,note\nN1,0.123456789,"a ""b"", c\td"\n');
  });
});
