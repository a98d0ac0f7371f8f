import { describe, expect, it } from "vitest";
import { FINISHES, finished, finishesShown, finishNumber, showFinishes } from "./finishes";

describe("finishes", () => {
  it("have a number each, and what is not known is matt", () => {
    expect(FINISHES.map(finishNumber)).toEqual(FINISHES.map((_, k) => k));
    expect(finishNumber("velvet")).toBe(finishNumber(undefined));
    expect(finishNumber(undefined)).toBe(finishNumber("matt"));
  });

  it("are told apart by the names and programs of their materials, but matt ones, which are plain", () => {
    const [matt, metal, piece] = [finished("matt"), finished("metal"), finished("metal", {}, true)];
    expect(matt.defines?.FINISH).toBeUndefined();
    expect(metal.defines?.FINISH).toBe(finishNumber("metal"));
    expect(metal.name).toBe("metal");
    expect(metal.customProgramCacheKey()).not.toBe(piece.customProgramCacheKey());
    expect(finished("glass", { name: "clear", opacity: 0.5 })).toMatchObject({
      name: "clear glass",
      opacity: 0.5,
    });
  });

  it("put in what they need, wherever the shader has a place for it", () => {
    for (const [finish, words] of [
      ["timber", ["grain", "stuffAt"]],
      ["metal", ["gloss", "worldUp"]],
    ] as const) {
      const shader = {
        uniforms: {} as Record<string, unknown>,
        vertexShader: "void main() {\n#include <begin_vertex>\n}",
        fragmentShader: "void main() {\n#include <color_fragment>\n#include <opaque_fragment>\n}",
      };
      finished(finish).onBeforeCompile(shader as never, undefined as never);
      for (const word of words) expect(shader.fragmentShader).toContain(word);
      expect(shader.vertexShader.match(/stuffAt/g)).toHaveLength(2);
      expect(Object.keys(shader.uniforms)).toContain("finishShare");
    }
  });

  it("are left out while colours stand for figures", () => {
    showFinishes(false);
    expect(finishesShown()).toBe(false);
    showFinishes(true);
    expect(finishesShown()).toBe(true);
  });
});
