import { measureOn } from "../api/catalogue";
import type { ClauseEntry, Outcome } from "../api/client";
import { useLive, useOpened, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { ResidualPlot } from "./ResidualPlot";

const percent = (share: number) => `${(share * 100).toPrecision(2)}\u202f%`;

/** What one can do with work that goes on step by step: stop it here, watch it again, see its forces. */
export function GoesOn({
  entry,
  value,
  outcome,
}: {
  entry: ClauseEntry;
  value: string;
  outcome: Outcome | undefined;
}) {
  const { viewing, channel } = useOpened();
  const moving = useLive((s) => (s.moving?.clause === entry.id ? s.moving : null));
  const measures = useLive((s) => s.measures.get(outcome?.key ?? ""));
  const busy = useLive((s) => s.busy);
  const forces = useView((s) => s.colourBy === measureOn("forces"));
  if (moving)
    return (
      <div className="mt-1 text-[13px]" data-testid="moving">
        <p className="flex items-center justify-between">
          <span>
            Step {moving.step}, {percent(moving.residual)} not balanced
          </span>
          <Button
            tone="quiet"
            onClick={() =>
              void channel.edit({ op: "set", clause: entry.id, name: value, value: Math.max(1, moving.step) })
            }
          >
            Stop here
          </Button>
        </p>
        <ResidualPlot steps={moving.steps} residuals={moving.residuals} />
      </div>
    );
  const { residuals, residualSteps } = measures?.arrays ?? {};
  if (busy && !residuals) return null;
  return (
    <div className="mt-0.5 text-[13px]">
      {residuals && residualSteps && residuals.length > 3 && (
        <ResidualPlot steps={residualSteps} residuals={residuals} />
      )}
      <p className="-ml-1.5 flex gap-1">
        <Button
          tone="quiet"
          title="Lets the net go from its start once more"
          onClick={() => channel.restart(entry.id)}
        >
          Start over
        </Button>
        {residuals && (
          <Button
            tone="quiet"
            aria-pressed={forces}
            onClick={() => viewing.getState().set({ colourBy: forces ? "none" : measureOn("forces") })}
          >
            {forces ? "Hide forces" : "Show forces"}
          </Button>
        )}
      </p>
    </div>
  );
}
