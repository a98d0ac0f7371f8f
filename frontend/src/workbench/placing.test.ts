import { Box3, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { chosen, placeAfter } from "./placing";

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

describe("a clause that is chosen", () => {
  const kind = { kind: "pattern", begins: { density: "module" } };

  it("begins as its kind does, and beside what is shown", () => {
    const extent = new Box3(new Vector3(-1, 0, 0), new Vector3(5, 2, 3));
    const there = chosen(kind, [], 0, { extent }).clause;
    const edit = chosen(kind, [there], 1, { extent });
    expect(edit).toMatchObject({
      op: "add",
      at: 1,
      beside: [
        [-1, 0, 0],
        [5, 2, 3],
      ],
    });
    expect(edit.clause).toMatchObject({ id: "pattern-2", kind: "pattern", values: kind.begins });
    expect(edit.clause.values).not.toBe(kind.begins);
  });

  it("stands by itself where there is nothing", () => {
    expect(chosen(kind, [], 0, { extent: new Box3() }).beside).toBeNull();
  });
});
