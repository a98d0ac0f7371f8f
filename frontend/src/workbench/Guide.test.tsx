// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import type { ClauseEntry, ClauseKind } from "../api/client";
import { Guide } from "./Guide";

const kind = (name: string, group: string, takes: string[], more: Partial<ClauseKind> = {}) =>
  ({
    ...{
      kind: name,
      title: name,
      chapter: group,
      group,
      gives: name,
      summary: "",
      explained: "",
      sought_by: "",
    },
    ...{ segments: [], values: [], has_picture: false },
    takes: takes.map((type) => ({ types: [type], optional: false, asked: false })),
    ...more,
  }) as unknown as ClauseKind;

const KINDS = [
  kind("dome", "Shape", []),
  kind("net", "Lattice", ["dome"]),
  kind("frame", "Frame", ["net"], { sought_by: "bars beams" }),
];
const onChoose = vi.fn();
const onOpenChange = vi.fn();

function opened(...before: string[]) {
  const clauses = before.map((id) => ({ id, kind: id, off: false, values: {} }) as unknown as ClauseEntry);
  render(<Guide kinds={KINDS} before={clauses} open {...{ onOpenChange, onChoose }} />);
  return screen.getByRole("textbox", { name: "Search the guide" });
}
const listed = () => [...document.querySelectorAll("[data-guide]")].map((b) => b.getAttribute("data-guide"));

afterEach(() => {
  cleanup();
  vi.clearAllMocks();
});

it("begins with what can come next and lists all after it", () => {
  opened("dome");
  expect(listed()).toEqual(["net", "dome", "net", "frame"]);
  expect(screen.getByRole("heading", { name: "Can come next" })).toBeTruthy();
});

it("puts in what is chosen by a click, or the first that is found by a key", () => {
  const search = opened("dome");
  fireEvent.change(search, { target: { value: "beam" } });
  expect(listed()).toEqual(["frame"]);
  fireEvent.keyDown(search, { key: "Enter" });
  expect(onChoose).toHaveBeenCalledWith(KINDS[2]);
  expect(onOpenChange).toHaveBeenCalledWith(false);
  fireEvent.click(document.querySelector('[data-guide="dome"]')!);
  expect(onChoose).toHaveBeenLastCalledWith(KINDS[0]);
});

it("says that nothing speaks of a word", () => {
  const search = opened();
  fireEvent.change(search, { target: { value: "marzipan" } });
  expect(screen.getByText(/Nothing in the guide speaks of “marzipan”/)).toBeTruthy();
  fireEvent.keyDown(search, { key: "Enter" });
  expect(onChoose).not.toHaveBeenCalled();
});
