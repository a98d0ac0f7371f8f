import { createStore, type StoreApi } from "zustand";
import type { Asked, Edit, Outcome, Said, Statement, StatementMessage } from "../api/client";
import { answered, api } from "../api/client";
import { type Compared, compared, toldOf } from "./compared";
import { decode, type Shown } from "./decode";
import { withPending } from "./pending";

/** What the server last said of the open project. */
export interface Moving {
  clause: string;
  source: string;
  positions: Float32Array;
  step: number;
  residual: number;
  /** The steps that were shown so far and what was not balanced at each. */
  steps: number[];
  residuals: number[];
}

export interface Live {
  project: string;
  /** Closed for good where there is no such project, or where it stands at something that cannot be read. */
  connection: "opening" | "open" | "lost" | "gone" | "unreadable";
  statement: Statement | null;
  head: number;
  /** What undo takes back and redo does again, in words; empty where there is nothing. */
  undoes: string;
  redoes: string;
  dimensions: StatementMessage["dimensions"];
  outcomes: Record<string, Outcome>;
  geometry: Map<string, Shown>;
  measures: Map<string, Shown>;
  /** Where the net of a clause is while another one moves it. */
  moving: Moving | null;
  busy: boolean;
  progress: { clause: string; what: string; share: number } | null;
  /** A clause of which nothing was heard for some seconds, and in how many more it is ended. */
  quiet: { clause: string; seconds: number; more: number } | null;
  /** A better arrangement on sheets that is being looked for, and what the last search came to. */
  arranging: { clause: string; share: number; sheets: number; used: number } | null;
  arranged: { clause: string; text: string } | null;
  seconds: number | null;
  problem: string | null;
  /** Figures now and before the last change. */
  compared: Compared | null;
}

/** What the server's close codes mean; any other is a connection that was lost. */
const CLOSED: Record<number, Live["connection"] | undefined> = { 4404: "gone", 4422: "unreadable" };

const EMPTY: Live = {
  project: "",
  connection: "opening",
  statement: null,
  head: 0,
  undoes: "",
  redoes: "",
  dimensions: [],
  outcomes: {},
  geometry: new Map(),
  measures: new Map(),
  moving: null,
  // Until the server says that all is done.
  busy: true,
  progress: null,
  quiet: null,
  arranging: null,
  arranged: null,
  seconds: null,
  problem: null,
  compared: null,
};

const KEYS_KEPT = 200;
const RETRY_MS = 1000;
const GATHER_MS = 250;

/** A net that moves where it is said to be now, with the steps it took to there. */
function moved(live: Live, shown: Shown): Moving {
  const { step = 0, residual = 1 } = shown.meta;
  const before = live.moving;
  const goesOn = before?.clause === shown.key && before.step < step;
  return {
    clause: shown.key,
    source: shown.of,
    positions: shown.arrays.positions as Float32Array,
    step,
    residual,
    steps: [...(goesOn ? before.steps : []), step],
    residuals: [...(goesOn ? before.residuals : []), residual],
  };
}

/** The socket of the open project. Previews go out one at a time: the newest waits for the picture of the last. */
export class Channel {
  /** What the server last said. */
  readonly live: StoreApi<Live>;
  private socket: WebSocket | null = null;
  private previewNumber = 0;
  private inFlight = 0;
  private previewed = false;
  private pending: Edit | null = null;
  private sentAt = 0;
  private keys: string[] = [];
  private gathered: Record<string, Outcome> = {};
  private editing: Promise<unknown> = Promise.resolve();
  private spreading: ReturnType<typeof setTimeout> | undefined;

  constructor(readonly project: string) {
    this.live = createStore(() => ({ ...EMPTY, project, geometry: new Map(), measures: new Map() }));
  }

  open() {
    this.close();
    this.live.setState({ ...EMPTY, project: this.project, geometry: new Map(), measures: new Map() });
    this.connect();
  }

  close() {
    const socket = this.socket;
    this.socket = null;
    this.inFlight = 0;
    this.pending = null;
    this.keys = [];
    clearTimeout(this.spreading);
    this.spreading = undefined;
    this.gathered = {};
    socket?.close();
  }

  private connect() {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/api/projects/${this.project}/live`);
    socket.binaryType = "arraybuffer";
    this.socket = socket;
    socket.onopen = () => this.live.setState({ connection: "open" });
    socket.onmessage = (event) => this.hear(event.data);
    socket.onclose = (event) => {
      if (this.socket !== socket) return;
      this.inFlight = 0;
      const connection = CLOSED[event.code] ?? "lost";
      this.live.setState({ connection, busy: false });
      if (connection === "lost")
        setTimeout(() => {
          if (this.socket === socket) this.connect();
        }, RETRY_MS);
    };
  }

  private say(message: Asked) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message));
  }

  private hear(data: string | ArrayBuffer) {
    if (typeof data !== "string") {
      const shown = decode(data);
      return shown.type === "motion"
        ? this.live.setState((s) => ({ moving: moved(s, shown) }))
        : this.show(shown);
    }
    const message = JSON.parse(data) as Said;
    switch (message.type) {
      case "statement":
        return this.adopt(message);
      case "outcome":
        return this.gather(message.outcome);
      case "busy":
        return this.live.setState({ busy: true, progress: null, quiet: null });
      case "progress":
        return this.live.setState({ busy: true, progress: message, quiet: null });
      case "quiet":
        return this.live.setState({ busy: true, quiet: message });
      case "arranging":
        return this.live.setState({ arranging: message, arranged: null });
      case "arranged":
        return this.live.setState({ arranging: null, arranged: message });
      case "drawn":
        this.spread();
        return this.drawn(message.preview);
      case "idle":
        this.spread();
        return this.live.setState((s) => ({
          busy: false,
          progress: null,
          quiet: null,
          moving: null,
          seconds: message.seconds,
          // What a drag shows on the way is compared with nothing.
          compared: this.previewed ? s.compared : compared(s.compared, s.head, toldOf(s.outcomes)),
        }));
      case "problem":
        return this.live.setState({ problem: message.text });
    }
  }

  /** Outcomes come one by one but are taken up together, so that a change is drawn once. */
  private gather(outcome: Outcome) {
    if (this.live.getState().quiet) this.live.setState({ quiet: null });
    const before = this.gathered[outcome.id] ?? this.live.getState().outcomes[outcome.id];
    this.gathered[outcome.id] = withPending(before, outcome);
    this.spreading ??= setTimeout(() => this.spread(), GATHER_MS);
  }

  private spread() {
    clearTimeout(this.spreading);
    this.spreading = undefined;
    const { gathered } = this;
    this.gathered = {};
    if (Object.keys(gathered).length)
      this.live.setState((s) => ({
        outcomes: { ...s.outcomes, ...gathered },
        // What has settled stands in the place of what was moving.
        moving: s.moving && gathered[s.moving.clause] ? null : s.moving,
      }));
  }

  private show(shown: Shown) {
    const kind = shown.type === "geometry" ? "geometry" : "measures";
    this.live.getState()[kind].set(shown.key, shown);
    if (kind !== "geometry") return;
    this.keys.push(shown.key);
    if (this.keys.length > KEYS_KEPT) {
      const used = new Set(Object.values(this.live.getState().outcomes).map((o) => o.key));
      const dropped = this.keys.splice(0, KEYS_KEPT / 2).filter((k) => !used.has(k));
      for (const key of dropped) {
        this.live.getState().geometry.delete(key);
        this.live.getState().measures.delete(key);
      }
      this.keys.unshift(...[...used].filter((k) => this.live.getState().geometry.has(k)));
      this.say({ type: "dropped", keys: dropped });
    }
  }

  /** A preview has been answered; the next one waits until its picture is out, lest pictures queue up. */
  private drawn(preview: number | null) {
    if (preview === null || preview !== this.inFlight) return;
    const started = this.sentAt;
    // The view draws in the coming frame; the one after begins when that is done.
    requestAnimationFrame(() =>
      requestAnimationFrame(() => {
        if (preview !== this.inFlight) return;
        performance.measure("drag to picture", { start: started });
        this.inFlight = 0;
        const edit = this.pending;
        this.pending = null;
        if (edit) this.preview(edit);
      }),
    );
  }

  /** Shows what an edit would do without making it. */
  preview(edit: Edit) {
    if (this.inFlight) {
      this.pending = edit;
      return;
    }
    this.previewed = true;
    this.inFlight = ++this.previewNumber;
    this.sentAt = performance.now();
    this.say({ type: "preview", edit, number: this.inFlight });
  }

  private endPreview() {
    this.previewed = false;
    this.pending = null;
    this.inFlight = 0;
  }

  /** Back to what the statement says. */
  settle() {
    this.endPreview();
    this.say({ type: "settle" });
  }

  cancel() {
    this.endPreview();
    this.say({ type: "cancel" });
  }

  /** Lets work of which nothing was heard for long go on. */
  goOn() {
    this.live.setState({ quiet: null });
    this.say({ type: "go-on" });
  }

  /** Works a clause, and what stands on it, out anew from its start. */
  restart(clause: string) {
    this.endPreview();
    this.say({ type: "restart", clause });
  }

  /** Makes an edit; it is in the history when this resolves to true. */
  async edit(edit: Edit): Promise<boolean> {
    this.endPreview();
    // One after the other: each is drawn up against what the one before has made.
    const made = this.editing.then(() => {
      const { project } = this;
      const { head } = this.live.getState();
      return this.moved(
        api.POST("/api/projects/{project}/edits", {
          params: { path: { project } },
          body: { edit, base: head },
        }),
      );
    });
    this.editing = made;
    return made;
  }

  async history(way: "undo" | "redo") {
    const { project } = this;
    await this.moved(
      api.POST("/api/projects/{project}/history/{way}", { params: { path: { project, way } } }),
    );
  }

  private async moved(call: Promise<{ data?: StatementMessage; error?: unknown }>): Promise<boolean> {
    try {
      this.adopt(await answered(call));
      return true;
    } catch (error) {
      this.live.setState({ problem: error instanceof Error ? error.message : String(error) });
      this.settle();
      return false;
    }
  }

  private adopt(message: StatementMessage) {
    const ids = new Set((message.statement.clauses ?? []).map((c) => c.id));
    this.live.setState((s) => {
      if (message.project !== s.project) return s;
      const outcomes = Object.fromEntries(Object.entries(s.outcomes).filter(([id]) => ids.has(id)));
      return {
        statement: message.statement,
        head: message.head,
        undoes: message.undoes,
        redoes: message.redoes,
        dimensions: message.dimensions,
        outcomes,
      };
    });
  }
}

/** Outcome of the clause whose result of a type is told of: the last that something of another type was made of, and
 * so not the ground below it; where nothing was, the last. */
export function lastOf(live: Pick<Live, "statement" | "outcomes">, type: string): Outcome | undefined {
  const done = (live.statement?.clauses ?? [])
    .filter((c) => !c.off)
    .flatMap((c) => live.outcomes[c.id] ?? [])
    .filter((o) => o.status === "done");
  const stoodFor = (by: Outcome[]) => new Set(by.flatMap((o) => o.stands_for ?? []));
  const [own, others] = [done.filter((o) => o.gives === type), done.filter((o) => o.gives !== type)];
  const [gone, used] = [stoodFor(own), stoodFor(others)];
  const left = own.filter((o) => !gone.has(o.id));
  return left.filter((o) => used.has(o.id)).at(-1) ?? left.at(-1);
}
