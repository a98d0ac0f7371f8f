import { Button } from "./Button";
import { usePaper } from "./paper";

/** Turns the paper from light to dark, or back. */
export function PaperSwitch() {
  const { paper, turn } = usePaper();
  const other = paper === "dark" ? "Light paper" : "Dark paper";
  return (
    <Button tone="quiet" className="!py-0" onClick={turn}>
      {other}
    </Button>
  );
}
