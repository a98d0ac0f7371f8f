import type { Figure, Outcome } from "../api/client";
import { lastOf, useResults } from "../live/live";
import { useView } from "../state/view";
import { figureText } from "../ui/text";
import { Distributions } from "./Distributions";
import { PickedDetail } from "./PickedDetail";

/** The figures that matter, from whichever clause has them. */
const SHOWN: { layer: string; names: string[] }[] = [
  { layer: "curves", names: ["curves", "closed", "length", "enclosed", "smallest", "largest"] },
  {
    layer: "surface",
    names: [
      "area",
      "volume",
      "measured_on",
      "extent_x",
      "extent_y",
      "extent_z",
      "smallest_radius",
      "low_points",
      "deepest",
      "self_crossings",
    ],
  },
  {
    layer: "net",
    names: [
      "cells",
      "edges",
      "vertices",
      "shortest",
      "longest",
      "spread",
      "distinct_lengths",
      "sharpest",
      "smallest_cell",
      "largest_cell",
      "flatness",
      "valence",
      "deviation_across",
      "deviation_along",
      "strands",
      "crossings",
      "rise",
      "moved",
      "residual",
      "steps",
      "largest_tension",
      "largest_compression",
      "load",
      "reaction",
      "thrust",
      "stretched",
      "flat_before",
    ],
  },
  {
    layer: "frame",
    names: [
      "members",
      "nodes",
      "total_length",
      "mass",
      "shortest",
      "longest",
      "distinct_lengths",
      "largest_set_back",
    ],
  },
  { layer: "labels", names: ["member_types", "panel_types"] },
  { layer: "panels", names: ["panels", "area", "flatness", "split"] },
  {
    layer: "ribs",
    names: [
      "ribs",
      "crossings",
      "rib_area",
      "rib_mass",
      "longest_rib",
      "splices",
      "at_openings",
      "overlap",
      "gap",
      "away",
    ],
  },
  { layer: "sheets", names: ["sheets", "used", "cut_length"] },
  { layer: "bars", names: ["bars", "bars_used"] },
];

/** Once there are members their figures stand for those of the net they follow, and a shape's for those of its curves. */
const FOLLOWED_BY: Record<string, string | undefined> = { net: "frame", curves: "surface" };

export function Readouts() {
  const live = useResults();
  const picked = useView((s) => s.selected.size > 0);
  const rows = SHOWN.flatMap(({ layer, names }) => {
    const next = FOLLOWED_BY[layer];
    const outcome: Outcome | undefined = next && lastOf(live, next) ? undefined : lastOf(live, layer);
    return names
      .flatMap((n) => outcome?.figures.filter((f) => f.name === n) ?? [])
      .map((f) => ({ layer, f }));
  });
  return (
    <div className="px-3 py-3">
      {picked && <PickedDetail />}
      <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Readouts</h2>
      {rows.length === 0 && <p className="text-soft">Figures appear once there are curves or a shape.</p>}
      <dl>
        {rows.map(({ layer, f }, i) => (
          <FigureRow key={`${layer}-${f.name}`} figure={f} apart={i > 0 && rows[i - 1]!.layer !== layer} />
        ))}
      </dl>
      <Distributions />
      {!picked && (
        <p className="mt-3 border-t border-rule pt-2 text-[13px] text-soft">
          Click a member, node, panel or rib to see all about it; Shift click for more than one.
        </p>
      )}
    </div>
  );
}

function FigureRow({ figure, apart }: { figure: Figure; apart: boolean }) {
  const text = figureText(figure.value, figure.unit, figure.decimals);
  return (
    <div
      className={`flex justify-between gap-2 py-px ${apart ? "mt-1 border-t border-rule pt-1" : ""}`}
      data-figure={figure.name}
    >
      <dt className="text-soft">{figure.label}</dt>
      <dd className="text-right">
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
    </div>
  );
}
