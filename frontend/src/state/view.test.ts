import { expect, it } from "vitest";
import { item, parts, viewingOf } from "./view";

it("names things by clause, kind and number, and reads them back", () => {
  expect(parts(item("roof-2", "member", 14))).toEqual({ clause: "roof-2", kind: "member", index: 14 });
});

it("picks things anew, or one more, or one less", () => {
  const view = viewingOf();
  const picked = () => [...view.getState().selected].sort();
  view.getState().select(["a/member/1"]);
  view.getState().select(["a/member/2", "a/member/3"], true);
  expect(picked()).toEqual(["a/member/1", "a/member/2", "a/member/3"]);
  view.getState().select(["a/member/2"], true);
  expect(picked()).toEqual(["a/member/1", "a/member/3"]);
  view.getState().select([]);
  expect(picked()).toEqual([]);
});

it("goes to the same things once more when asked once more", () => {
  const view = viewingOf();
  view.getState().show(["a/node/1"]);
  const first = view.getState().goTo;
  view.getState().show(["a/node/1"]);
  expect(view.getState().goTo).toMatchObject({ items: ["a/node/1"], count: first!.count + 1 });
});

it("lights what is pointed at, and nothing is one and the same nothing", () => {
  const view = viewingOf();
  const before = view.getState().pointed;
  view.getState().point(["a/rib/1"], "a/depth");
  expect(view.getState().pointedValue).toBe("a/depth");
  view.getState().point();
  expect(view.getState().pointed).toBe(before);
  expect(view.getState().pointedValue).toBe(null);
});

it("folds and unfolds several at once, and layers are shown or not", () => {
  const view = viewingOf();
  view.getState().fold(["Shape", "a"], true);
  view.getState().fold(["a"], false);
  expect([...view.getState().folded]).toEqual(["Shape"]);
  view.getState().toggle("nodes");
  expect(view.getState().shown.nodes).toBe(true);
  view.getState().toggle("nodes");
  expect(view.getState().shown.nodes).toBe(false);
});
