import type { Figure } from "../api/client";
import { was } from "../live/compared";
import { useLive, useMargin, useOpened, useResults, useView } from "../state/opened";
import { useLengths } from "../ui/lengths";
import { figureText } from "../ui/text";
import { Distributions } from "./Distributions";
import { headlines } from "./headlines";
import { PickedDetail } from "./PickedDetail";
import { TargetOf } from "./TargetOf";
import { isMissed } from "./targets";

export function Readouts() {
  const live = useResults();
  const before = useLive((s) => s.compared);
  useLengths(); // written anew when lengths are read otherwise
  const picked = useView((s) => s.selected.size > 0);
  const groups = headlines(live);
  return (
    <div className="px-3 py-3">
      {picked && <PickedDetail />}
      <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Readouts</h2>
      {groups.length === 0 && <p className="text-soft">Figures appear once there are curves or a shape.</p>}
      {groups.map(({ title, clause, figures }, k) => (
        <section
          key={title}
          aria-label={`Figures: ${title}`}
          className={k > 0 ? "mt-1 border-t border-rule pt-1" : ""}
        >
          <h3 className="font-serif text-[15px]">{title}</h3>
          <dl>
            {figures.map((figure) => (
              <FigureRow
                key={figure.name}
                figure={figure}
                clause={clause}
                before={was(before, clause, figure.name)}
              />
            ))}
          </dl>
        </section>
      ))}
      <Distributions />
      {!picked && (
        <p className="mt-3 border-t border-rule pt-2 text-[13px] text-soft">
          Click a member, node, panel, rib or solid to see all about it; Shift click for more than one.
        </p>
      )}
    </div>
  );
}

const isSet = (end: number | null | undefined): end is number => typeof end === "number";

interface FigureRowProps {
  figure: Figure;
  /** That it is of. */
  clause: string;
  before: number | string | undefined;
}

function FigureRow({ figure, clause, before }: FigureRowProps) {
  const { viewing } = useOpened();
  const set = useView((s) => s.set);
  const text = figureText(figure.value, figure.unit, figure.decimals);
  const target = useMargin((m) => m.targets[figure.name]);
  const missed = isMissed(figure, target);
  const beforeText = before === undefined ? text : figureText(before, figure.unit, figure.decimals);
  return (
    <div
      className="flex flex-wrap items-baseline justify-between gap-x-2 rounded-sm py-px hover:bg-leaf"
      data-figure={figure.name}
      onPointerEnter={() => set({ lit: clause, spot: figure.at ?? null })}
      onPointerLeave={() => set({ lit: null, spot: null })}
    >
      <dt className={missed ? "text-amber" : "text-soft"}>
        <TargetOf figure={figure} target={target} />
      </dt>
      <dd
        className={`order-3 ml-auto text-right whitespace-nowrap ${figure.pending ? "text-soft" : missed ? "font-semibold text-amber" : ""}`}
      >
        {figure.at ? (
          <button
            type="button"
            className="underline decoration-dotted underline-offset-4 hover:text-plum"
            title="Show me where"
            onClick={() => viewing.getState().show([], figure.at as [number, number, number])}
          >
            {text}
          </button>
        ) : (
          text
        )}
      </dd>
      {missed && (
        <dd className="order-4 w-full text-right text-xs text-amber">
          {isSet(target?.least) && `at least ${figureText(target.least, figure.unit, figure.decimals)}`}
          {isSet(target?.least) && isSet(target?.most) && ", "}
          {isSet(target?.most) && `at most ${figureText(target.most, figure.unit, figure.decimals)}`}
        </dd>
      )}
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
