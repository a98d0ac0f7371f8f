// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { ClauseEntry } from "../api/client";
import { Opened, Within } from "../state/opened";
import { ChosenBar } from "./ChosenBar";

const clause = (id: string, bundle = "", off = false) =>
  ({ id, kind: "dome", on: {}, values: {}, bundle, off }) as ClauseEntry;

const opened = new Opened("hall");

const shown = (clauses: ClauseEntry[], ...chosen: string[]) => {
  opened.live.setState({ statement: { clauses } as never });
  opened.viewing.setState({ chosen: new Set(chosen) });
  render(
    <Within opened={opened}>
      <ChosenBar />
    </Within>,
  );
};

describe("clauses that are chosen together", () => {
  const edit = vi.spyOn(opened.channel, "edit").mockResolvedValue(true);
  beforeEach(() => edit.mockClear());
  afterEach(cleanup);

  it("are not spoken of while there are none", () => {
    shown([clause("a")]);
    expect(screen.queryByRole("form")).toBeNull();
  });

  it("are switched off in one step, and on again once all are off", () => {
    shown([clause("a"), clause("b"), clause("c")], "a", "c");
    fireEvent.click(screen.getByRole("button", { name: "Switch off" }));
    expect(edit).toHaveBeenCalledExactlyOnceWith({
      op: "together",
      edits: [
        { op: "switch", clause: "a", off: true },
        { op: "switch", clause: "c", off: true },
      ],
    });
    cleanup();
    shown([clause("a", "", true), clause("b", "", true)], "a", "b");
    screen.getByRole("button", { name: "Switch on" });
  });

  it("are removed from the last, so that each is where it was when they come back", async () => {
    shown([clause("a"), clause("b")], "a", "b");
    fireEvent.click(screen.getByRole("button", { name: "Remove" }));
    const [{ edits }] = edit.mock.lastCall as unknown as [{ edits: { clause: string }[] }];
    expect(edits.map((e) => e.clause)).toEqual(["b", "a"]);
    await vi.waitFor(() => expect(opened.viewing.getState().chosen.size).toBe(0));
  });

  it("are bundled under a name, and parted where they have one and it is taken away", () => {
    shown([clause("a", "roof"), clause("b", "roof")], "a", "b");
    const name = screen.getByLabelText("Name of the bundle") as HTMLInputElement;
    expect(name.value).toBe("roof");
    expect((screen.getByRole("button", { name: "Bundle" }) as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(name, { target: { value: " " } });
    fireEvent.click(screen.getByRole("button", { name: "Part them" }));
    const [{ edits }] = edit.mock.lastCall as unknown as [{ edits: { bundle: string }[] }];
    expect(edits.map((e) => e.bundle)).toEqual(["", ""]);
  });
});
