import { Popover } from "radix-ui";
import { useNavigate } from "react-router-dom";
import { useClauseKinds } from "./api/kinds";
import { useLive, useOpened } from "./state/opened";
import { RemarkLine } from "./workbench/RemarkLine";
import { allRemarks, counted, type Remark } from "./workbench/remarks";
import { scrollToClause } from "./workbench/scrolling";

const TEXTS = { brick: "text-brick", amber: "text-amber", soft: "text-soft" };

/** How many clauses could not be made and how many warnings there are; behind it all of them in a list, each with its
 * clause, its place and what would mend it. */
export function Remarks() {
  const { viewing } = useOpened();
  const clauses = useLive((s) => s.statement?.clauses);
  const outcomes = useLive((s) => s.outcomes);
  const project = useLive((s) => s.project);
  const kinds = useClauseKinds();
  const navigate = useNavigate();
  const every = clauses ?? [];
  const remarks = allRemarks(every, outcomes);
  const { failed, warned } = counted(remarks);
  if (remarks.length === 0) return null;
  const number = (remark: Remark) => every.findIndex((c) => c.id === remark.clause);
  const title = (remark: Remark) => kinds.find((k) => k.kind === every[number(remark)]?.kind)?.title;
  const goTo = (remark: Remark) => {
    navigate(`/p/${project}`);
    viewing.getState().set({ active: remark.clause, folded: new Set() });
    // The clause may have to be drawn first.
    requestAnimationFrame(() => scrollToClause(remark.clause));
  };
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button type="button" className="flex gap-3 underline decoration-dotted underline-offset-4">
          {failed && <span className={TEXTS.brick}>{failed}</span>}
          {warned && <span className={TEXTS.amber}>{warned}</span>}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={6}
          collisionPadding={8}
          aria-label="Warnings"
          className="floating max-h-[60vh] w-[27rem] overflow-y-auto px-3 py-2"
        >
          <ol>
            {remarks.map((remark, k) => (
              <li key={k} className="py-1.5">
                <button
                  type="button"
                  className="font-serif text-[15px] hover:text-plum"
                  onClick={() => goTo(remark)}
                >
                  {title(remark) ?? "A clause"}{" "}
                  <span className="font-sans text-xs text-soft">clause {number(remark) + 1}</span>
                </button>
                <RemarkLine remark={remark} onShow={() => goTo(remark)} />
              </li>
            ))}
          </ol>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
