import { expect, test } from "vitest";
import type { Outcome } from "../api/client";
import { canWrite } from "./groups";

const outcome = (kind: string, gives: string, status = "done") => ({ kind, gives, status }) as Outcome;
const group = (needs: string[], made_by: string[] = []) => ({
  ...{ key: "g", title: "G", about: "", on_request: false },
  needs,
  made_by,
});

test("files are written of what was made, and some only of what a kind of clause made", () => {
  const net = outcome("pattern", "Net");
  expect(canWrite(group(["Net", "Shape"]), [net])).toBe(true);
  expect(canWrite(group(["Sheets"]), [net])).toBe(false);
  expect(canWrite(group(["Net"]), [outcome("pattern", "Net", "failed")])).toBe(false);
  expect(canWrite(group(["Net"], ["settle"]), [net])).toBe(false);
  expect(canWrite(group(["Net"], ["settle"]), [net, outcome("settle", "Net")])).toBe(true);
  expect(canWrite(group(["Net"], ["settle"]), [outcome("settle", "Lines")])).toBe(false);
});
