// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { setCatalogue } from "../api/catalogue";
import { api, type Outcome } from "../api/client";
import { Opened, Within } from "../state/opened";
import { useLengths } from "../ui/lengths";
import { DeliverScreen } from "./DeliverScreen";

const group = (key: string, needs: string[], rest = {}) => ({
  ...{ key, title: key, about: `about ${key}`, needs, made_by: [], on_request: false },
  ...rest,
});
const GROUPS = [
  group("Schedules", ["Structure"]),
  group("Forces", ["Net"], { made_by: ["settle"] }),
  group("Machine files", ["Structure"], { on_request: true }),
];
const PACK = {
  id: "p1",
  checks: [{ passed: true, what: "labels unique", worst: 0, unit: "mistakes", where: "" }],
  files: [{ name: "members.csv", size: 2048 }],
  ...{ held_back: false, not_made: [], seconds: 1 },
};

let opened = new Opened("hall");
const post = vi.spyOn(api, "POST");
const outcome = (id: string, gives: string, status = "done") =>
  ({ id, kind: id, gives, status, key: id, figures: [] }) as unknown as Outcome;

function shown(...outcomes: Outcome[]) {
  opened.live.setState({ outcomes: Object.fromEntries(outcomes.map((o) => [o.id, o])), head: 3 });
  render(
    <Within opened={opened}>
      <DeliverScreen />
    </Within>,
  );
}
const box = (name: RegExp) => screen.getByRole<HTMLInputElement>("checkbox", { name });
const asked = () =>
  (post.mock.calls.at(-1) as unknown as [string, { body: { files: string[] } }])[1].body.files;

beforeEach(() => {
  opened = new Opened("hall");
  setCatalogue({
    types: [],
    schedules: [],
    pack_groups: GROUPS,
    marks: [],
    units: [],
    materials: [],
  } as never);
  post.mockResolvedValue({ data: PACK, response: new Response() } as never);
  Element.prototype.scrollTo = vi.fn() as never;
});
afterEach(() => {
  cleanup();
  vi.clearAllMocks();
});

it("writes what there is material for, and what is asked for besides", async () => {
  shown(outcome("pattern", "Net"), outcome("frame", "Structure"));
  expect(box(/Forces/).disabled).toBe(true);
  expect(screen.getByText("nothing to write yet")).toBeTruthy();
  fireEvent.click(box(/Machine files/));
  fireEvent.click(screen.getByRole("button", { name: "Write the pack" }));
  expect(await screen.findByText(/All 1 checks passed/)).toBeTruthy();
  expect(asked()).toEqual(["Schedules", "Machine files"]);
  expect(Element.prototype.scrollTo).toHaveBeenCalledWith({ top: 0 });
  opened.live.setState({ head: 4 });
  expect(await screen.findByText(/has changed since this pack was written/)).toBeTruthy();
});

it("leaves out what is turned off, and says what clauses could not be made", async () => {
  shown(outcome("frame", "Structure"), outcome("panels", "Panels", "failed"));
  expect(screen.getByText(/One clause could not be made/)).toBeTruthy();
  fireEvent.click(box(/Schedules/));
  fireEvent.click(screen.getByRole("button", { name: "Write the pack" }));
  await screen.findByTestId("pack");
  expect(asked()).toEqual([]);
});

it("goes on writing while one looks elsewhere, and still tells of it when one comes back", async () => {
  let done: (answer: unknown) => void = () => {};
  post.mockReturnValue(
    new Promise((resolve) => {
      done = resolve;
    }) as never,
  );
  shown(outcome("frame", "Structure"));
  fireEvent.click(box(/Machine files/));
  fireEvent.click(screen.getByRole("button", { name: "Write the pack" }));
  cleanup();
  shown(outcome("frame", "Structure"));
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Writing …" }).disabled).toBe(true);
  expect(box(/Machine files/).checked).toBe(true);
  cleanup();
  done({ data: PACK, response: new Response() });
  await vi.waitFor(() => expect(opened.delivery.state.getState().writing).toBe(false));
  shown(outcome("frame", "Structure"));
  expect(screen.getByText(/All 1 checks passed/)).toBeTruthy();
  expect(post).toHaveBeenCalledTimes(1);
});

it("says what cannot be made and why, with lengths as the project has them", async () => {
  const lengths = [{ at: 22, words: "76.2 mm", values: [76.2], unit: "mm", form: "{}" }];
  const panel = { what: "panel", why: "too small for a joint 76.2 mm wide", lengths };
  const not_made = [
    { ...panel, label: "P1" },
    { ...panel, label: "P2" },
  ];
  post.mockResolvedValue({ data: { ...PACK, not_made }, response: new Response() } as never);
  useLengths.setState({ system: "feet" });
  shown(outcome("panels", "Panels"));
  fireEvent.click(screen.getByRole("button", { name: "Write the pack" }));
  const told = await screen.findByText(/^2 not made/);
  expect(told.textContent).toBe("2 not made, too small for a joint 3″ wide: panel P1, panel P2");
  useLengths.setState({ system: "metric" });
});

it("says why a pack was not written", async () => {
  post.mockResolvedValue({ error: { detail: "The disk is full." } } as never);
  shown(outcome("frame", "Structure"));
  fireEvent.click(screen.getByRole("button", { name: "Write the pack" }));
  expect(await screen.findByText("The disk is full.")).toBeTruthy();
});
