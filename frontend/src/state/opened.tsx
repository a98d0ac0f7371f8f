import { createContext, type ReactNode, useContext, useLayoutEffect, useState } from "react";
import { type StoreApi, useStore } from "zustand";
import { Channel, type Live } from "../live/live";
import { rehearse } from "../view/rehearsal";
import { Viewport } from "../view/viewport";
import { Delivery } from "./delivery";
import { Margin, type Notes } from "./margin";
import { type ViewState, viewingOf } from "./view";

/** Viewports of projects that were closed; each keeps what its graphics have made ready. */
const spare: Viewport[] = [];

/** Whether a viewport was ever asked for. */
let isSeen = false;

/** Makes the first viewport ready while one looks for a project; not where one is open already. */
export function makeReady() {
  if (isSeen || spare.length) return;
  const viewport = new Viewport();
  spare.push(viewport);
  rehearse(viewport);
}

/** An open project: what the server says of it, how it is seen, and what is kept of it beside its statement. Whatever stands
 * below its provider is of this project alone, so that several can stand side by side. */
export class Opened {
  readonly channel: Channel;
  readonly live: StoreApi<Live>;
  readonly viewing = viewingOf();
  readonly margin: Margin;
  readonly delivery: Delivery;
  private own: Viewport | null = null;

  constructor(readonly project: string) {
    this.channel = new Channel(project);
    this.live = this.channel.live;
    this.delivery = new Delivery(project);
    this.margin = new Margin(project, (problem) => this.live.setState({ problem }));
  }

  /** The one viewport; it moves from screen to screen, so that nothing is drawn anew. */
  get viewport(): Viewport {
    isSeen = true;
    this.own ??= spare.pop() ?? new Viewport();
    return this.own;
  }

  open() {
    this.channel.open();
    void this.margin.read();
  }

  close() {
    this.channel.close();
    if (this.own) spare.push(this.own);
    this.own = null;
  }
}

const Context = createContext<Opened | null>(null);

/** Opens a project for what stands below; it is given its identity by `key`, so that another is opened anew. */
export function OpenedProject({ project, children }: { project: string; children: ReactNode }) {
  const [opened] = useState(() => new Opened(project));
  // Before anything is painted: the server answers meanwhile.
  useLayoutEffect(() => {
    opened.open();
    return () => opened.close();
  }, [opened]);
  return <Within opened={opened}>{children}</Within>;
}

/** Lets what stands below be of a project that somebody else opens. */
export function Within({ opened, children }: { opened: Opened; children: ReactNode }) {
  return <Context value={opened}>{children}</Context>;
}

export function useOpened(): Opened {
  const opened = useContext(Context);
  if (!opened) throw new Error("There is no project open here.");
  return opened;
}

export function useLive<T>(select: (live: Live) => T): T {
  return useStore(useOpened().live, select);
}

/** What the server last said, for those who care about results and not about how far work has come. */
export function useResults(): Live {
  useLive((s) => s.outcomes);
  useLive((s) => s.statement);
  return useOpened().live.getState();
}

export function useView(): ViewState;
export function useView<T>(select: (view: ViewState) => T): T;
export function useView<T>(select: (view: ViewState) => T | ViewState = (view) => view) {
  return useStore(useOpened().viewing, select);
}

export function useMargin<T>(select: (notes: Notes) => T): T {
  return useStore(useOpened().margin.notes, select);
}
