// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { Box3, Vector3 } from "three";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Remedy } from "../api/client";
import { Opened, Within } from "../state/opened";
import { useLengths } from "../ui/lengths";
import type { Viewport } from "../view/viewport";
import { RemarkLine } from "./RemarkLine";
import type { Remark } from "./remarks";

const opened = new Opened("hall");
const edit = vi.spyOn(opened.channel, "edit").mockResolvedValue(true);
const extent = new Box3(new Vector3(0, 0, 0), new Vector3(6, 4, 3));
vi.spyOn(opened, "viewport", "get").mockReturnValue({ extent } as Viewport);
const restart = vi.spyOn(opened.channel, "restart").mockImplementation(() => {});

const plain = { kind: "", moved: "", below: false, clause: "ribs", values: {}, on: {}, lengths: [] };
const told = (remedy: Partial<Remedy>, of: Partial<Remark> = {}) => {
  const remark: Remark = {
    ...{ clause: "ribs", tone: "amber", text: "Ribs lock.", at: null, of: "", which: [], made: "ribs" },
    lengths: [],
    remedies: [{ ...plain, title: "Mend it", ...remedy }],
    ...of,
  };
  render(
    <Within opened={opened}>
      <RemarkLine remark={remark} />
    </Within>,
  );
  fireEvent.click(screen.getByRole("button", { name: "Mend it" }));
};
const made = () => edit.mock.calls.map(([e]) => e);

afterEach(cleanup);

describe("what would mend a warning", () => {
  beforeEach(() => {
    edit.mockClear();
    restart.mockClear();
    const clauses = ["body", "ribs", "boards"].map((id) => ({ id, kind: id, values: {} }));
    opened.live.setState({ statement: { clauses } as never });
  });

  it("is a clause before the one that warns, or below it", () => {
    told({ kind: "weld", values: { distance: 3 } });
    expect(made()[0]).toMatchObject({ op: "add", at: 1, clause: { kind: "weld", values: { distance: 3 } } });
    expect(made()[0]).toMatchObject({ beside: [extent.min.toArray(), extent.max.toArray()] });
    cleanup();
    told({ kind: "rib-slots", below: true, values: { turn: "needed" } });
    expect(made()[1]).toMatchObject({ op: "add", at: 2, clause: { kind: "rib-slots" } });
  });

  it("is another place for a clause", () => {
    told({ moved: "boards" });
    expect(made()).toEqual([{ op: "move", clause: "boards", to: 1 }]);
  });

  it("is other values, one after the other", async () => {
    told({ values: { turn: "needed", wall: 9 } });
    await vi.waitFor(() => expect(edit).toHaveBeenCalledTimes(2));
    expect(made()).toEqual([
      { op: "set", clause: "ribs", name: "turn", value: "needed" },
      { op: "set", clause: "ribs", name: "wall", value: 9 },
    ]);
    expect(restart).not.toHaveBeenCalled();
  });

  it("is something else to work on", () => {
    told({ on: { solids: "boards" } });
    expect(made()).toEqual([{ op: "on", clause: "ribs", input: "solids", source: "boards" }]);
    expect(restart).not.toHaveBeenCalled();
  });

  it("is to try once more where nothing is to change", () => {
    told({});
    expect(restart).toHaveBeenCalledExactlyOnceWith("ribs");
    expect(edit).not.toHaveBeenCalled();
  });
});

it("shows the place it speaks of", () => {
  told({}, { at: [1, 2, 3] });
  fireEvent.click(screen.getByRole("button", { name: "Show me" }));
  expect(opened.viewing.getState().goTo).toMatchObject({ items: [], at: [1, 2, 3], count: 1 });
});

it("is told in feet and inches where the project has them", () => {
  useLengths.setState({ system: "feet" });
  const length = { unit: "mm", form: "{}" } as const;
  const text = "Joints of 25.4 mm are too narrow.";
  const lengths = [{ ...length, at: 10, words: "25.4 mm", values: [25.4] }];
  const remedies = [
    {
      ...plain,
      title: "Joints of 50.8 mm",
      lengths: [{ ...length, at: 10, words: "50.8 mm", values: [50.8] }],
    },
  ];
  const remark: Remark = {
    ...{ clause: "ribs", tone: "amber", text, lengths, at: null, of: "", which: [], made: "ribs" },
    remedies,
  };
  render(
    <Within opened={opened}>
      <RemarkLine remark={remark} />
    </Within>,
  );
  expect(screen.getByRole("note").textContent).toContain("Joints of 1″ are too narrow.");
  expect(screen.getByRole("button").textContent).toBe("Joints of 2″");
  act(() => useLengths.setState({ system: "metric" }));
  expect(screen.getByRole("button").textContent).toBe("Joints of 50.8 mm");
});
