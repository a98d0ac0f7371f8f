// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { NumberValue } from "./NumberValue";

const onPreview = vi.fn();
const onCancel = vi.fn();
const onCommit = vi.fn(async (_: number | string) => true);

function shown(given: Partial<Parameters<typeof NumberValue>[0]> = {}) {
  const props = { label: "Depth", unit: "m", value: 1.2, step: 0.1, least: 0.2, most: 9, draggable: true };
  render(<NumberValue {...props} name="depth" {...{ onPreview, onCommit, onCancel }} {...given} />);
  return screen.getByRole("spinbutton", { name: "Depth" });
}
const drag = (number: HTMLElement, by: number) => {
  number.setPointerCapture = () => {};
  // What jsdom leaves out of pointer events is told by those of a mouse.
  const at = (type: string, clientX: number) =>
    fireEvent(number, new MouseEvent(type, { bubbles: true, button: 0, clientX }));
  at("pointerdown", 100);
  at("pointermove", 100 + by);
  at("pointerup", 100 + by);
};
const type = (text: string, key = "Enter") => {
  const field = screen.getByRole("textbox", { name: "Depth" });
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key });
};

describe("a number in a sentence", () => {
  beforeEach(() => {
    for (const mock of [onPreview, onCancel, onCommit]) mock.mockClear();
  });
  afterEach(cleanup);

  it("is stepped by keys within its limits, each press going on from the one before", () => {
    const number = shown({ value: 0.3 });
    fireEvent.keyDown(number, { key: "ArrowDown" });
    fireEvent.keyDown(number, { key: "ArrowDown" });
    fireEvent.keyDown(number, { key: "ArrowDown" });
    expect(onCommit.mock.calls.map(([value]) => value)).toEqual([0.2, 0.2, 0.2]);
    fireEvent.keyDown(number, { key: "ArrowUp", shiftKey: true });
    expect(onCommit).toHaveBeenLastCalledWith(0.21);
  });

  it("is dragged, looked at meanwhile, and taken once when let go", () => {
    drag(shown(), 40);
    expect(onPreview).toHaveBeenCalledWith(2.2);
    expect(onCommit.mock.calls).toEqual([[2.2]]);
  });

  it("is typed, with a comma or as a formula, and left alone where nothing was typed", () => {
    const number = shown();
    for (const [text, taken] of [
      ["2,5", 2.5],
      ["span / 12", "span / 12"],
    ] as const) {
      fireEvent.keyDown(number.isConnected ? number : screen.getByRole("spinbutton"), { key: "Enter" });
      type(text);
      expect(onCommit).toHaveBeenLastCalledWith(taken);
    }
    onCommit.mockClear();
    fireEvent.keyDown(screen.getByRole("spinbutton"), { key: "Enter" });
    type("  ");
    fireEvent.keyDown(screen.getByRole("spinbutton"), { key: "Enter" });
    type("7", "Escape");
    expect(onCommit).not.toHaveBeenCalled();
  });

  it("says what a formula comes to, and that is not dragged", () => {
    const number = shown({ value: "span / 12", resolved: 1.5, draggable: false });
    expect(number.getAttribute("aria-valuetext")).toBe("span / 12 = 1.5\u202fm");
    drag(number, 40);
    expect(onPreview).not.toHaveBeenCalled();
  });

  it("is as it was where a change was not taken", async () => {
    onCommit.mockResolvedValueOnce(false);
    const number = shown();
    fireEvent.keyDown(number, { key: "ArrowUp" });
    await vi.waitFor(() => expect(number.getAttribute("aria-valuetext")).toBe("1.2\u202fm"));
  });
});
