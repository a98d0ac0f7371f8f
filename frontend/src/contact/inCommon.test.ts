import { describe, expect, it } from "vitest";
import type { Figure } from "../api/client";
import { inCommon } from "./inCommon";

const figures = (...names: string[]) =>
  names.map((name) => ({ name, headline: !name.startsWith("_") }) as Figure);

describe("figures that pictures have in common", () => {
  it("are headlines of all that are made, in their order", () => {
    const all = [
      { figures: figures("cells", "_loops", "edges", "shortest") },
      {},
      { figures: figures("edges", "cells", "_loops") },
    ];
    expect(inCommon(all)).toEqual(["cells", "edges"]);
  });

  it("are none as long as nothing is made", () => {
    expect(inCommon([{}, {}])).toEqual([]);
  });
});
