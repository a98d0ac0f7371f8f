import { afterEach, describe, expect, it } from "vitest";
import { useLengths } from "../ui/lengths";
import { answered } from "./client";

afterEach(() => useLengths.setState({ system: "metric" }));

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

  it("tells lengths as the project has them", async () => {
    const lengths = [{ at: 12, words: "3.048 m", values: [3.048], unit: "m", form: "{}" }];
    const refused = () => Promise.resolve({ error: { detail: "The rise is 3.048 m.", lengths } });
    await expect(answered(refused())).rejects.toThrow("The rise is 3.048 m.");
    useLengths.setState({ system: "feet" });
    await expect(answered(refused())).rejects.toThrow("The rise is 10′.");
  });
});
