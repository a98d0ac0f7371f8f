import { useMargin, useOpened } from "../state/opened";
import { Button } from "./Button";

/** Turns the lengths of a project from metric to feet and inches, or back. */
export function LengthSwitch() {
  const { margin } = useOpened();
  const isFeet = useMargin((m) => m.lengths) === "feet";
  return (
    <Button
      tone="quiet"
      className="!py-0"
      title="How lengths are written here; files stay metric"
      onClick={() => void margin.note({ lengths: isFeet ? "metric" : "feet" })}
    >
      {isFeet ? "Metric lengths" : "Feet and inches"}
    </Button>
  );
}
