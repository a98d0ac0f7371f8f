import { beforeEach, expect, it, vi } from "vitest";
import { api } from "../api/client";
import { Margin } from "./margin";

const axes = { on: true, x: 6, y: 0, levels: [0, 3.2] };
const get = vi.spyOn(api, "GET");
const patch = vi.spyOn(api, "PATCH");
const problems: string[] = [];
const opened = () => new Margin("hall", (text) => problems.push(text));

beforeEach(() => {
  problems.length = 0;
  get.mockReset();
  patch.mockReset();
  patch.mockResolvedValue({ data: undefined, response: new Response(null, { status: 204 }) } as never);
});

it("has what lies with the project, but for what was noted while that was read", async () => {
  get.mockResolvedValue({ data: { axes, lengths: "feet" }, response: new Response() } as never);
  const margin = opened();
  const reading = margin.read();
  await margin.note({ lengths: "metric" });
  await reading;
  expect(margin.notes.getState().axes).toEqual(axes);
  expect(margin.notes.getState().lengths).toBe("metric");
  expect(margin.notes.getState().views).toEqual([]);
});

it("writes one note after the other, each only what was noted", async () => {
  const margin = opened();
  let first = () => {};
  patch.mockReturnValueOnce(
    new Promise((done) => {
      first = () => done({ data: undefined, response: new Response(null, { status: 204 }) } as never);
    }) as never,
  );
  void margin.note({ lengths: "feet" });
  const last = margin.note({ axes });
  await Promise.resolve();
  expect(patch).toHaveBeenCalledTimes(1);
  first();
  await last;
  expect(patch.mock.calls.map(([, { body }]) => body as object)).toEqual([{ lengths: "feet" }, { axes }]);
});

it("says where a note could not be kept, and goes on with the next", async () => {
  patch.mockResolvedValueOnce({ error: { detail: "No room" }, response: new Response() } as never);
  const margin = opened();
  await margin.note({ lengths: "feet" });
  expect(problems).toEqual(["No room"]);
  await margin.note({ axes });
  expect(patch).toHaveBeenCalledTimes(2);
});
