import { describe, expect, it } from "vitest";
import { firstWithRows, lacks } from "./first";

const schedules = [
  { name: "members", needs: ["Structure"] },
  { name: "assembly", needs: ["Ribs", "Sheets"] },
  { name: "bodies", needs: ["Solids"] },
];

describe("the schedule that is shown first", () => {
  it("is one there are results for", () => {
    expect(firstWithRows(schedules, new Set(["Shape", "Solids"]))?.name).toBe("bodies");
    expect(firstWithRows(schedules, new Set(["Solids", "Structure"]))?.name).toBe("members");
  });

  it("needs all of what it is made of, and is the first of all where there is nothing", () => {
    expect(firstWithRows(schedules, new Set(["Ribs"]))?.name).toBe("members");
    expect(firstWithRows(schedules, new Set(["Ribs", "Sheets"]))?.name).toBe("assembly");
  });
});

it("lacks nothing where nothing is needed, or where all that is needed is there", () => {
  expect(lacks({ needs: [] }, new Set())).toBe(false);
  expect(lacks(schedules[1]!, new Set(["Ribs", "Sheets", "Shape"]))).toBe(false);
  expect(lacks(schedules[1]!, new Set(["Sheets"]))).toBe(true);
});
