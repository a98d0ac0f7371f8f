import { Button } from "./Button";
import { useLengths } from "./lengths";

/** Turns the lengths of a project from metric to feet and inches, or back. */
export function LengthSwitch() {
  const { system, turn } = useLengths();
  return (
    <Button tone="quiet" title="How lengths are written here; files stay metric" onClick={turn}>
      {system === "feet" ? "Metric lengths" : "Feet and inches"}
    </Button>
  );
}
