import { createStore, type StoreApi } from "zustand";
import { answered, api, type PackMessage } from "../api/client";

export interface Delivered {
  /** Groups of files whose box was turned from what it is at first. */
  turned: ReadonlySet<string>;
  writing: boolean;
  /** What was written last, and of which state of the statement. */
  pack: PackMessage | null;
  madeAt: number;
  /** Why nothing was written. */
  problem: string;
}

/** The pack of an open project: it goes on being written, and stays told of, whichever screen one looks at. */
export class Delivery {
  readonly state: StoreApi<Delivered> = createStore(() => ({
    turned: new Set<string>(),
    writing: false,
    pack: null,
    madeAt: 0,
    problem: "",
  }));

  constructor(private project: string) {}

  toggle(group: string) {
    const turned = new Set(this.state.getState().turned);
    turned.has(group) ? turned.delete(group) : turned.add(group);
    this.state.setState({ turned });
  }

  /** Writes groups of files of a state of the statement, one pack at a time. */
  async write(files: string[], head: number) {
    if (this.state.getState().writing) return;
    this.state.setState({ writing: true, madeAt: head, problem: "" });
    const params = { path: { project: this.project } };
    try {
      const pack = await answered(api.POST("/api/projects/{project}/pack", { params, body: { files } }));
      this.state.setState({ pack });
    } catch (error) {
      this.state.setState({ problem: (error as Error).message });
    }
    this.state.setState({ writing: false });
  }
}
