// @vitest-environment jsdom
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";
import type { ValueSpec } from "../../api/client";
import { useLengths } from "../../ui/lengths";
import { PlaceValue } from "./PlaceValue";

afterEach(() => {
  cleanup();
  useLengths.setState({ system: "metric" });
});

it("is told in metres, or in feet and inches where the project has them; formulas as they are", () => {
  const spec = { name: "centre", label: "Centre" } as ValueSpec;
  render(<PlaceValue spec={spec} value={[3.048, "width / 2", 0]} onCommit={() => {}} />);
  const told = () => screen.getByRole("button").textContent;
  expect(told()).toBe("(3.048, width / 2, 0)\u202fm");
  act(() => useLengths.setState({ system: "feet" }));
  expect(told()).toBe("(10′, width / 2, 0″)");
});
