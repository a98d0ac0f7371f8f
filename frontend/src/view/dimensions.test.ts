// @vitest-environment jsdom
import { expect, it, vi } from "vitest";
import { api } from "../api/client";
import { Opened } from "../state/opened";
import { measuresOf, takePlace } from "./dimensions";

vi.spyOn(api, "PATCH").mockResolvedValue({ response: new Response(null, { status: 204 }) } as never);

it("takes two places each, which stay with the project", () => {
  const opened = new Opened("hall");
  const { notes } = opened.margin;
  takePlace(opened, [0, 0, 0]);
  expect(opened.viewing.getState().begun).toEqual([0, 0, 0]);
  expect(notes.getState().distances).toEqual([]);
  takePlace(opened, [3, 4, 0]);
  takePlace(opened, [9, 9, 9]);
  expect(notes.getState().distances).toEqual([{ start: [0, 0, 0], end: [3, 4, 0] }]);
  const measured = measuresOf(notes.getState().distances, opened.viewing.getState().begun);
  expect(measured.map(({ from, to }) => [from.x, to && from.distanceTo(to)])).toEqual([
    [0, 5],
    [9, null],
  ]);
});
