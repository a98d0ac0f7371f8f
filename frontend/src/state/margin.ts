import { createStore, type StoreApi } from "zustand";
import { answered, api, type Schemas } from "../api/client";

/** What people keep of a project beside its statement: views, distances, targets, axes, and how lengths are written. */
export type Notes = Schemas["Margin"];

const EMPTY: Notes = {
  views: [],
  distances: [],
  targets: {},
  axes: { on: false, x: 5, y: 5, levels: [0] },
  lengths: "metric",
};

/** The margin of a project, which lies with it on the server. */
export class Margin {
  readonly notes: StoreApi<Notes> = createStore(() => EMPTY);
  /** What was noted since it was opened, which is newer than what is being read. */
  private own: Partial<Notes> = {};
  private writing: Promise<unknown> = Promise.resolve();

  constructor(
    private project: string,
    private onProblem: (text: string) => void,
  ) {}

  async read() {
    const params = { path: { project: this.project } };
    try {
      const found = (await answered(api.GET("/api/projects/{project}/margin", { params }))) as Notes;
      this.notes.setState({ ...found, ...this.own });
    } catch {
      // There is no such project, or no server; what stands for the project itself says so.
    }
  }

  /** Notes something in place of what stood there; one after the other, so that the last is kept. */
  note(part: Partial<Notes>) {
    this.own = { ...this.own, ...part };
    this.notes.setState(part);
    const params = { path: { project: this.project } };
    this.writing = this.writing
      .then(() => answered(api.PATCH("/api/projects/{project}/margin", { params, body: part as Notes })))
      .catch((error: Error) => this.onProblem(error.message));
    return this.writing;
  }
}
