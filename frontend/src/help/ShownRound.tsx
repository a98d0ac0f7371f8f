import { useEffect } from "react";
import { Link, useLocation } from "react-router-dom";
import type { ClauseKind } from "../api/client";
import { useClauseKinds } from "../api/kinds";
import { useLive, useOpened } from "../state/opened";
import { Button } from "../ui/Button";
import { chosen } from "../workbench/placing";
import { progress, STEPS, useRound } from "./round";

/** The step that is at hand, over the foot of the statement, while one is shown round. */
export function ShownRound({ project }: { project: string }) {
  const { channel, viewport } = useOpened();
  const { on, seen, see, leave } = useRound();
  const kinds = useClauseKinds();
  const clauses = useLive((s) => s.statement?.clauses) ?? [];
  const outcomes = useLive((s) => s.outcomes);
  const screen = useLocation().pathname.split("/")[3] ?? "";
  useEffect(() => see(screen), [screen, see]);
  if (!on) return null;
  const { at, done } = progress({ clauses, outcomes, seen });
  const step = STEPS[at];
  const kind = kinds.find((k) => k.kind === step?.kind);
  const put = (what: ClauseKind) => void channel.edit(chosen(what, clauses, clauses.length, viewport));
  return (
    <aside
      aria-label="Shown round"
      className="floating !z-30 fixed bottom-9 left-3 w-[21rem] px-4 py-3"
      data-step={at + 1}
    >
      <div className="flex items-center gap-2">
        <span className="text-[13px] text-soft">
          {step ? `Step ${at + 1} of ${STEPS.length}` : "All seven steps are done"}
        </span>
        <span className="flex gap-1" aria-hidden>
          {done.map((is, k) => (
            <span
              key={STEPS[k]!.title}
              className={`size-2 rounded-full border border-plum ${is ? "bg-plum" : ""}`}
            />
          ))}
        </span>
        <span className="grow" />
        <Button tone="quiet" onClick={leave}>
          {step ? "Leave" : "Close"}
        </Button>
      </div>
      {step ? (
        <>
          <h2 className="font-serif text-lg">{step.title}</h2>
          <p className="text-[13px] leading-snug">{step.how}</p>
          <p className="mt-2">
            {kind && <Button onClick={() => put(kind)}>Put in “{kind.title}”</Button>}
            {step.screen && (
              <Link className="live" to={`/p/${project}/${step.screen}`}>
                Go there
              </Link>
            )}
          </p>
        </>
      ) : (
        <p className="text-[13px] leading-snug">
          From here on every clause of the guide works the same way; “Explain” in a clause's menu says what it
          does.
        </p>
      )}
    </aside>
  );
}
