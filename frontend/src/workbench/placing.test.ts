import { describe, expect, it } from "vitest";
import { placeAfter } from "./placing";

describe("a clause that is put elsewhere", () => {
  it("stands where it was dropped, whichever way it came", () => {
    const all = ["a", "b", "c", "d"];
    const put = (from: number, before: number) => {
      const rest = all.filter((_, k) => k !== from);
      rest.splice(placeAfter(from, before), 0, all[from]!);
      return rest.join("");
    };
    expect([put(0, 2), put(0, 4), put(3, 0), put(2, 1)]).toEqual(["bacd", "bcda", "dabc", "acbd"]);
    expect([put(1, 1), put(1, 2)]).toEqual(["abcd", "abcd"]);
  });
});
