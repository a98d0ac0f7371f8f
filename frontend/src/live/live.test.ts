// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { api, type Edit, type Outcome, type Said } from "../api/client";
import { Channel, lastOf } from "./live";

const sockets: Socket[] = [];

class Socket {
  static OPEN = 1;
  readyState = Socket.OPEN;
  onopen = () => {};
  onmessage: (event: { data: string | ArrayBuffer }) => void = () => {};
  onclose: (event: { code: number }) => void = () => {};
  sent: { type: string; number?: number; keys?: string[] }[] = [];
  constructor() {
    sockets.push(this);
  }
  send(text: string) {
    this.sent.push(JSON.parse(text));
  }
  close() {}
  say(message: Partial<Said>) {
    this.onmessage({ data: JSON.stringify(message) });
  }
}

const outcome = (id: string, gives: string, rest: Partial<Outcome> = {}): Outcome =>
  ({
    ...{ id, kind: id, gives, status: "done", key: id, figures: [], warnings: [], stands_for: [] },
    ...rest,
  }) as unknown as Outcome;
const stated = (head: number, ...ids: string[]): Said =>
  ({
    type: "statement",
    project: "hall",
    statement: { name: "Hall", dimensions: [], clauses: ids.map((id) => ({ id, kind: id, values: {} })) },
    head,
    ...{ can_undo: true, can_redo: false, undoes: "the depth", redoes: "", dimensions: [] },
  }) as unknown as Said;
const depth = (value: number) => ({ op: "set", clause: "a", name: "depth", value }) as unknown as Edit;

let channel: Channel;
let socket: Socket;
const now = () => channel.live.getState();
const frame = () => vi.advanceTimersByTime(20);

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout", "requestAnimationFrame", "performance"] });
  performance.measure = vi.fn();
  vi.stubGlobal("WebSocket", Socket);
  sockets.length = 0;
  channel = new Channel("hall");
  channel.open();
  socket = sockets[0]!;
  socket.onopen();
});
afterEach(() => {
  channel.close();
  vi.restoreAllMocks();
  vi.useRealTimers();
});

describe("the channel", () => {
  it("takes outcomes up together, once the picture is complete", () => {
    socket.say(stated(1, "a", "b"));
    socket.say({ type: "outcome", outcome: outcome("a", "Net") } as never);
    socket.say({ type: "outcome", outcome: outcome("b", "Structure") } as never);
    expect(now().outcomes).toEqual({});
    socket.say({ type: "drawn", preview: null } as never);
    expect(Object.keys(now().outcomes)).toEqual(["a", "b"]);
    // Without a picture they are not kept back for long.
    socket.say({ type: "outcome", outcome: outcome("b", "Structure", { key: "later" }) } as never);
    vi.advanceTimersByTime(300);
    expect(now().outcomes.b!.key).toBe("later");
  });

  it("sends previews one at a time, the newest once the picture of the last is out", () => {
    for (const value of [1, 2, 3]) channel.preview(depth(value));
    const previews = () => socket.sent.filter((m) => m.type === "preview");
    expect(previews()).toEqual([{ type: "preview", number: 1, edit: depth(1) }]);
    socket.say({ type: "drawn", preview: 1 } as never);
    expect(previews()).toHaveLength(1);
    frame();
    frame();
    expect(previews().at(-1)).toEqual({ type: "preview", number: 2, edit: depth(3) });
    // Nothing is sent any more once it was let go.
    channel.preview(depth(4));
    channel.settle();
    socket.say({ type: "drawn", preview: 2 } as never);
    frame();
    frame();
    expect(previews()).toHaveLength(2);
    expect(socket.sent.at(-1)).toEqual({ type: "settle" });
  });

  it("forgets what clauses made that are there no more", () => {
    socket.say(stated(1, "a", "b"));
    socket.say({ type: "outcome", outcome: outcome("b", "Net") } as never);
    socket.say({ type: "idle", seconds: 0.2, cancelled: false } as never);
    expect(now()).toMatchObject({ busy: false, seconds: 0.2, undoes: "the depth" });
    socket.say(stated(2, "a"));
    expect(now().outcomes).toEqual({});
    socket.say({ ...stated(9, "z"), project: "another" } as never);
    expect(now().head).toBe(2);
  });

  it("says that it was lost and comes back by itself, but not where it is not wanted", () => {
    socket.onclose({ code: 1006 });
    expect(now().connection).toBe("lost");
    vi.advanceTimersByTime(1100);
    expect(sockets).toHaveLength(2);
    sockets[1]!.onopen();
    expect(now().connection).toBe("open");
    channel.close();
    sockets[1]!.onclose({ code: 1006 });
    vi.advanceTimersByTime(5000);
    expect(sockets).toHaveLength(2);
  });

  it("makes edits one after the other, each on what the one before has made", async () => {
    socket.say(stated(4, "a"));
    const post = vi.spyOn(api, "POST");
    const bases: number[] = [];
    post.mockImplementation((async (_: string, { body }: { body: { base: number } }) => {
      bases.push(body.base);
      return { data: stated(body.base + 1, "a"), response: new Response() };
    }) as never);
    await expect(Promise.all([channel.edit(depth(1)), channel.edit(depth(2))])).resolves.toEqual([
      true,
      true,
    ]);
    expect(bases).toEqual([4, 5]);
    post.mockResolvedValueOnce({ error: { detail: "A depth is more than nothing." } } as never);
    await expect(channel.edit(depth(-1))).resolves.toBe(false);
    expect(now().problem).toBe("A depth is more than nothing.");
    expect(socket.sent.at(-1)).toEqual({ type: "settle" });
    post.mockRejectedValueOnce(new Error("refused"));
    await expect(channel.edit(depth(1))).resolves.toBe(false);
    expect(now().problem).toMatch(/the server is not answering/);
  });
});

it("tells of the last result of a type that something was made of, not of one that another stands for", () => {
  const clauses = ["roof", "eased", "ground", "net"].map((id) => ({ id, kind: id, off: false, values: {} }));
  const outcomes = {
    roof: outcome("roof", "Shape"),
    eased: outcome("eased", "Shape", { stands_for: ["roof"] }),
    ground: outcome("ground", "Shape"),
    net: outcome("net", "Net", { stands_for: ["eased"] }),
  };
  const live = { statement: { clauses }, outcomes } as never;
  expect(lastOf(live, "Shape")?.id).toBe("eased");
  expect(lastOf(live, "Net")?.id).toBe("net");
  expect(lastOf(live, "Panels")).toBeUndefined();
});
