import { useRef } from "react";
import { Boundary } from "../ui/Boundary";
import { ChapterStrip } from "./ChapterStrip";
import { ChosenBar } from "./ChosenBar";
import { StatementPanel } from "./StatementPanel";

/** The statement beside what is made of it, with its chapters in sight. */
export function StatementAside() {
  const scrolled = useRef<HTMLDivElement>(null);
  return (
    <aside className="flex min-h-0 flex-col border-r border-rule" aria-label="Statement">
      <Boundary name="The statement">
        <ChapterStrip scrolled={scrolled} />
        <div ref={scrolled} className="min-h-0 grow overflow-y-auto">
          <StatementPanel />
        </div>
        <ChosenBar />
      </Boundary>
    </aside>
  );
}
