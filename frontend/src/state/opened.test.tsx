// @vitest-environment jsdom
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { Said } from "../api/client";
import { Opened, OpenedProject, useLive, useOpened, useView, Within } from "./opened";

/** Sockets as the server's side has them, by the address that was asked for. */
const sockets = new Map<string, Socket>();

class Socket {
  static OPEN = 1;
  readyState = Socket.OPEN;
  closed = false;
  onmessage: (event: { data: string }) => void = () => {};
  onclose: (event: { code: number }) => void = () => {};
  sent: string[] = [];
  constructor(readonly url: string) {
    sockets.set(url.split("/").at(-2)!, this);
  }
  send(text: string) {
    this.sent.push(text);
  }
  close() {
    this.closed = true;
  }
  say(message: Said) {
    act(() => this.onmessage({ data: JSON.stringify(message) }));
  }
}

beforeEach(() => {
  sockets.clear();
  vi.stubGlobal("WebSocket", Socket);
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const stated = (project: string, name: string): Said => ({
  type: "statement",
  project,
  statement: { name, dimensions: [], clauses: [] } as never,
  head: 1,
  can_undo: false,
  can_redo: false,
  undoes: "",
  redoes: "",
  dimensions: [],
});

function Told() {
  const { project } = useOpened();
  const name = useLive((s) => s.statement?.name);
  const chosen = useView((s) => [...s.chosen].join());
  return <p data-testid={project}>{`${name ?? "nothing"}, ${chosen || "none"}`}</p>;
}
const text = (project: string) => screen.getByTestId(project).textContent;

it("keeps two projects that stand side by side apart", () => {
  const [hall, shed] = [new Opened("hall"), new Opened("shed")];
  hall.open();
  shed.open();
  render(
    <>
      <Within opened={hall}>
        <Told />
      </Within>
      <Within opened={shed}>
        <Told />
      </Within>
    </>,
  );
  sockets.get("hall")!.say(stated("hall", "Hall"));
  act(() => shed.viewing.setState({ chosen: new Set(["ribs"]) }));
  expect(text("hall")).toBe("Hall, none");
  expect(text("shed")).toBe("nothing, ribs");
  // What is told of another project is not taken for one's own.
  sockets.get("shed")!.say(stated("hall", "Hall"));
  expect(text("shed")).toBe("nothing, ribs");
  hall.channel.preview({ op: "rename", name: "x" });
  expect(sockets.get("hall")!.sent).toHaveLength(1);
  expect(sockets.get("shed")!.sent).toHaveLength(0);
  hall.close();
  expect(sockets.get("hall")!.closed).toBe(true);
  expect(sockets.get("shed")!.closed).toBe(false);
  shed.close();
});

it("begins a project that is opened after another with nothing of the other", () => {
  const shown = render(
    <OpenedProject key="hall" project="hall">
      <Told />
    </OpenedProject>,
  );
  sockets.get("hall")!.say(stated("hall", "Hall"));
  expect(text("hall")).toBe("Hall, none");
  shown.rerender(
    <OpenedProject key="shed" project="shed">
      <Told />
    </OpenedProject>,
  );
  expect(text("shed")).toBe("nothing, none");
  expect(sockets.get("hall")!.closed).toBe(true);
});

it("connects again when the line was lost, and not where there is no such project", () => {
  vi.useFakeTimers();
  const opened = new Opened("hall");
  opened.open();
  const first = sockets.get("hall")!;
  first.onclose({ code: 1006 });
  expect(opened.live.getState().connection).toBe("lost");
  vi.runAllTimers();
  const second = sockets.get("hall")!;
  expect(second).not.toBe(first);
  second.onclose({ code: 4404 });
  vi.runAllTimers();
  expect(opened.live.getState().connection).toBe("gone");
  expect(sockets.get("hall")).toBe(second);
});

it("says that it stands in no project rather than take another for it", () => {
  const quiet = vi.spyOn(console, "error").mockImplementation(() => {});
  expect(() => render(<Told />)).toThrow("no project open");
  quiet.mockRestore();
});
