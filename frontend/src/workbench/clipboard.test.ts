import { describe, expect, it } from "vitest";
import type { ClauseEntry } from "../api/client";
import { asText, fromText } from "./clipboard";

const entry = (id: string, kind: string, on: ClauseEntry["on"] = {}): ClauseEntry => ({
  id,
  kind,
  off: false,
  bundle: "",
  on,
  values: { span: 4 },
});

describe("clauses as text", () => {
  it("come back as they were where nothing is in their way", () => {
    const clauses = [entry("cap", "dome"), entry("net", "pattern", { shape: "cap" })];
    expect(fromText(asText(clauses), [])).toEqual(clauses);
  });

  it("get ids of their own, and still work on each other", () => {
    const clauses = [entry("cap", "dome"), entry("net", "pattern", { shape: "cap" })];
    const pasted = fromText(asText(clauses), [entry("cap", "ball"), entry("dome-1", "dome")])!;
    expect(pasted.map((c) => c.id)).toEqual(["dome-2", "net"]);
    expect(pasted[1]!.on).toEqual({ shape: "dome-2" });
    expect(new Set(fromText(asText([clauses[0]!, clauses[0]!]), [])!.map((c) => c.id)).size).toBe(2);
  });

  it("let go of what they worked on elsewhere, but keep an input that is to stay empty", () => {
    const on = { shape: "roof", holds: ["a", "cap"], frame: [] };
    const pasted = fromText(asText([entry("cap", "dome"), entry("net", "pattern", on)]), [])!;
    expect(pasted[1]!.on).toEqual({ holds: ["cap"], frame: [] });
  });

  it("are told from any other text", () => {
    for (const text of ["", "4.5 m", "{}", '{"format":"lean-lattice-clauses","clauses":[]}', "[1]", "null"])
      expect(fromText(text, [])).toBeNull();
    expect(fromText('{"format":"lean-lattice-clauses","clauses":[{"id":1}]}', [])).toBeNull();
  });
});
