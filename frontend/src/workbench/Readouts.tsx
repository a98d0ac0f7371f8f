import { catalogue } from "../api/catalogue";
import type { Figure } from "../api/client";
import { was } from "../live/compared";
import { type Live, lastOf, useLive, useResults } from "../live/live";
import { useView } from "../state/view";
import { figureText } from "../ui/text";
import { Distributions } from "./Distributions";
import { PickedDetail } from "./PickedDetail";

/** Headline figures of the last result of each type, as long as none of another type tells more. */
function headlines(live: Live): { type: string; clause: string; figure: Figure }[] {
  const last = catalogue().types.map((t) => ({ type: t, outcome: lastOf(live, t.name) }));
  const there = new Set(last.filter((l) => l.outcome).map((l) => l.type.name));
  return last
    .filter(({ type }) => !there.has(type.told_until))
    .flatMap(({ type, outcome }) =>
      (outcome?.figures ?? [])
        .filter((f) => f.headline)
        .map((figure) => ({ type: type.name, clause: outcome!.id, figure })),
    );
}

export function Readouts() {
  const live = useResults();
  const before = useLive((s) => s.compared);
  const picked = useView((s) => s.selected.size > 0);
  const rows = headlines(live);
  return (
    <div className="px-3 py-3">
      {picked && <PickedDetail />}
      <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Readouts</h2>
      {rows.length === 0 && <p className="text-soft">Figures appear once there are curves or a shape.</p>}
      <dl>
        {rows.map(({ type, clause, figure }, i) => (
          <FigureRow
            key={`${type}-${figure.name}`}
            figure={figure}
            before={was(before, clause, figure.name)}
            apart={i > 0 && rows[i - 1]!.type !== type}
          />
        ))}
      </dl>
      <Distributions />
      {!picked && (
        <p className="mt-3 border-t border-rule pt-2 text-[13px] text-soft">
          Click a member, node, panel, rib or solid to see all about it; Shift click for more than one.
        </p>
      )}
    </div>
  );
}

function FigureRow({
  figure,
  before,
  apart,
}: {
  figure: Figure;
  before: number | string | undefined;
  apart: boolean;
}) {
  const text = figureText(figure.value, figure.unit, figure.decimals);
  const beforeText = before === undefined ? text : figureText(before, figure.unit, figure.decimals);
  return (
    <div
      className={`flex flex-wrap items-baseline justify-between gap-x-2 py-px ${apart ? "mt-1 border-t border-rule pt-1" : ""}`}
      data-figure={figure.name}
    >
      <dt className="text-soft">{figure.label}</dt>
      <dd className={`order-3 ml-auto text-right whitespace-nowrap ${figure.pending ? "text-soft" : ""}`}>
        {figure.at ? (
          <button
            type="button"
            className="underline decoration-dotted underline-offset-4 hover:text-plum"
            title="Show me where"
            onClick={() => useView.getState().show([], figure.at as [number, number, number])}
          >
            {text}
          </button>
        ) : (
          text
        )}
      </dd>
      {beforeText !== text && !figure.pending && (
        <dd
          className="order-2 grow text-right text-xs whitespace-nowrap text-moss"
          title="Before the last change"
        >
          {beforeText} →
        </dd>
      )}
    </div>
  );
}
