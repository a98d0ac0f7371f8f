import type { ClauseEntry, ClauseKind, Outcome } from "../api/client";
import { useView } from "../state/opened";
import { useLengths } from "../ui/lengths";
import { figureText } from "../ui/text";
import { HIGH, SKETCHES, type Sketch, WIDE } from "./sketches";
import { segmentsOf, valueIn } from "./values/values";

interface Props {
  entry: ClauseEntry;
  kind: ClauseKind;
  outcome: Outcome | undefined;
}

/** Drawings of those values of a clause that its sentence shows now: each with the line it measures, lit with it. */
export function Sketches({ entry, kind, outcome }: Props) {
  const told = new Set(segmentsOf(entry, kind).map((s) => s.value));
  return Object.entries(kind.sketches).map(([name, values]) => {
    const sketch = SKETCHES[name];
    const shown = values.filter((value) => told.has(value) && sketch?.marks[value]);
    if (!sketch || !shown.length) return null;
    return <Drawing key={name} name={name} sketch={sketch} shown={shown} {...{ entry, kind, outcome }} />;
  });
}

function Drawing({
  name,
  sketch,
  shown,
  entry,
  kind,
  outcome,
}: Props & { name: string; sketch: Sketch; shown: string[] }) {
  const pointed = useView((s) => s.pointedValue);
  useLengths();
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      className="my-1 w-full max-w-[22rem] rounded-sm bg-leaf"
      role="img"
      aria-label={sketch.title}
      data-sketch={name}
    >
      <title>{sketch.title}</title>
      {sketch.behind.map((d) => (
        <path key={d} d={d} className="fill-none stroke-rule" strokeWidth={1.2} strokeDasharray="4 3" />
      ))}
      {sketch.parts.map((d) => (
        <path key={d} d={d} className="fill-bar/15 stroke-ink" strokeWidth={1.2} fillRule="evenodd" />
      ))}
      {shown.map((value) => {
        const { d, at, anchor = "start" } = sketch.marks[value]!;
        const lit = pointed === `${entry.id}/${value}`;
        return (
          <g
            key={value}
            data-mark={value}
            data-lit={lit || undefined}
            className={lit ? "text-plum" : "text-moss"}
          >
            <path d={d} fill="none" stroke="currentColor" strokeWidth={lit ? 2.4 : 1.5} />
            <text
              x={at[0]}
              y={at[1]}
              textAnchor={anchor}
              fill="currentColor"
              fontSize={11}
              fontWeight={lit ? 700 : 400}
            >
              {textOf(entry, kind, outcome, value)}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

/** A value as it is told in a drawing: a number with its unit, of a formula what it comes to. */
function textOf(entry: ClauseEntry, kind: ClauseKind, outcome: Outcome | undefined, name: string): string {
  const spec = kind.values.find((v) => v.name === name)!;
  const value = valueIn(entry, spec);
  const number = typeof value === "number" ? value : outcome?.resolved[name];
  if (number === undefined) return String(value);
  const decimals = Math.min(3, Math.max(0, String(number).split(".")[1]?.length ?? 0));
  return figureText(number, spec.unit, decimals);
}
