import { describe, expect, it } from "vitest";
import { answered } from "./client";

describe("an answer", () => {
  it("is what was asked for", async () => {
    expect(await answered(Promise.resolve({ data: 4 }))).toBe(4);
  });

  it("is a sentence where there is none", async () => {
    const unreachable = Promise.reject(new TypeError("Failed to fetch"));
    await expect(answered(unreachable)).rejects.toThrow("the server is not answering");
    const refused = Promise.resolve({ error: { detail: "The rise is 0." } });
    await expect(answered(refused)).rejects.toThrow("The rise is 0.");
  });
});
