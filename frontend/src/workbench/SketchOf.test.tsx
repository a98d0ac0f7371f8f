// @vitest-environment jsdom
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { ClauseEntry, ClauseKind } from "../api/client";
import { Opened, Within } from "../state/opened";
import { Sketches } from "./SketchOf";

const spec = (name: string, value: number) => ({ name, kind: "number", unit: "mm", default: value });
const kind = {
  kind: "panels",
  segments: [
    { value: "joint" },
    { value: "thickness" },
    { value: "height", when: "seat", equals: ["raised"] },
  ],
  values: [
    spec("joint", 20),
    spec("thickness", 12),
    spec("height", 40),
    { name: "seat", kind: "choice", default: "net" },
  ],
  sketches: { panels: ["joint", "thickness", "height", "clear"], unknown: ["joint"] },
} as unknown as ClauseKind;

const opened = new Opened("hall");

const drawn = (values: Record<string, unknown>, resolved: Record<string, number> = {}) => {
  const entry = { id: "p", kind: "panels", values } as unknown as ClauseEntry;
  return render(
    <Within opened={opened}>
      <Sketches entry={entry} kind={kind} outcome={{ resolved } as never} />
    </Within>,
  ).container;
};
const marks = (host: HTMLElement) =>
  Object.fromEntries(
    [...host.querySelectorAll<SVGGElement>("[data-mark]")].map((g) => [g.dataset.mark, g.textContent]),
  );

describe("values in a drawing", () => {
  afterEach(cleanup);

  it("are those that the sentence shows, with what they are", () => {
    expect(Object.keys(marks(drawn({})))).toEqual(["joint", "thickness"]);
    cleanup();
    const raised = marks(drawn({ seat: "raised", joint: 7.5 }));
    expect(Object.keys(raised)).toEqual(["joint", "thickness", "height"]);
    expect(raised.joint).toMatch(/^7\.5/);
    expect(raised.height).toMatch(/^40/);
  });

  it("are told of a formula by what it comes to", () => {
    expect(marks(drawn({ joint: "gap" }, { joint: 16 })).joint).toMatch(/^16/);
  });

  it("are lit while they are pointed at", () => {
    const host = drawn({});
    act(() => opened.viewing.getState().point([], "p/thickness"));
    expect([...host.querySelectorAll<SVGGElement>("[data-lit]")].map((g) => g.dataset.mark)).toEqual([
      "thickness",
    ]);
    act(() => opened.viewing.getState().point());
    expect(host.querySelector("[data-lit]")).toBeNull();
    screen.getByRole("img");
  });
});
