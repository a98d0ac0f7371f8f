import { Boundary } from "../ui/Boundary";
import { View } from "../view/View";
import { Readouts } from "./Readouts";
import { StatementAside } from "./StatementAside";

/** The statement at the left, the view in the middle, readouts at the right. */
export function Workbench() {
  return (
    <main className="grid min-h-0 grid-cols-[clamp(20rem,29.4vw,36rem)_minmax(0,1fr)_clamp(12.5rem,18.75vw,20rem)]">
      <StatementAside />
      <Boundary name="The view">
        <View />
      </Boundary>
      <aside className="overflow-y-auto border-l border-rule" aria-label="Readouts">
        <Boundary name="What the structure comes to">
          <Readouts />
        </Boundary>
      </aside>
    </main>
  );
}
