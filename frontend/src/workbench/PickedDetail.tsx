import { Fragment } from "react";
import { Link, useParams } from "react-router-dom";
import { scheduleOf, totalsOf } from "../api/catalogue";
import { cellText, decimalsOf, headerText } from "../schedules/cells";
import { useSchedule } from "../schedules/useSchedule";
import { useOpened, useResults, useView } from "../state/opened";
import { parts } from "../state/view";
import { Button } from "../ui/Button";
import { figureText } from "../ui/text";
import { labelOf } from "../view/naming";

/** What is picked: all of one thing, or how many and how much of several. */
export function PickedDetail() {
  const { viewing } = useOpened();
  const selected = useView((s) => s.selected);
  const alone = useView((s) => s.alone);
  const { project = "" } = useParams();
  if (!selected.size) return null;
  const [first] = selected;
  return (
    <section className="mb-3 border-b border-rule pb-3" data-testid="picked" aria-label="Picked">
      {selected.size === 1 ? <One id={first!} /> : <Several ids={[...selected]} />}
      <div className="mt-2 flex flex-wrap gap-1">
        <Button onClick={() => viewing.getState().show([...selected])}>Go there</Button>
        <Button
          aria-pressed={alone !== null}
          onClick={() => viewing.getState().set({ alone: alone ? null : selected })}
        >
          {alone ? "Show all" : "Show alone"}
        </Button>
        <Link
          className="rounded-sm border border-rule bg-leaf px-3 py-1 text-sm hover:border-plum hover:text-plum"
          to={`/p/${project}/schedules?of=${scheduleOf(parts(first!).kind)}`}
        >
          In the schedule
        </Link>
      </div>
    </section>
  );
}

function One({ id }: { id: string }) {
  const live = useResults();
  const { clause, kind, index } = parts(id);
  const { tables } = useSchedule(scheduleOf(kind));
  const table = tables?.find((t) => t.clause === clause);
  const row = table ? table.index.indexOf(index) : -1;
  return (
    <>
      <h3 className="mb-1 font-mono text-[15px] text-plum">{labelOf(live, id)}</h3>
      {table && row >= 0 && (
        <dl className="text-[13px]">
          {table.columns.slice(1).map((c) => {
            const { title, unit } = headerText(c.name);
            const value = c.values[row];
            if (value === "" || value === undefined) return null;
            return (
              <div key={c.name} className="flex justify-between gap-2">
                <dt className="text-soft">{title}</dt>
                <dd className="text-right">
                  {typeof value === "number"
                    ? `${Number(cellText(value, decimalsOf(c.name, [value])))}${unit && (unit === "°" ? "°" : `\u202f${unit}`)}`
                    : value}
                </dd>
              </div>
            );
          })}
        </dl>
      )}
      {tables && !table && <p className="text-[13px] text-soft">No schedule has a row of it.</p>}
    </>
  );
}

function Several({ ids }: { ids: string[] }) {
  const live = useResults();
  const all = ids.map(parts);
  const sum = (things: typeof all, measure: string) =>
    things.reduce(
      (total, p) =>
        total + (live.measures.get(live.outcomes[p.clause]?.key ?? "")?.arrays[measure]?.[p.index] ?? 0),
      0,
    );
  return (
    <>
      <h3 className="mb-1 text-[15px] text-plum">{ids.length.toLocaleString("en-GB")} picked</h3>
      <dl className="text-[13px]">
        {[...new Set(all.map((p) => p.kind))].map((thing) => {
          const mine = all.filter((p) => p.kind === thing);
          return (
            <Fragment key={thing}>
              <Row title={mine.length === 1 ? thing : `${thing}s`} text={figureText(mine.length, "", 0)} />
              {totalsOf(thing).map((m) => (
                <Row
                  key={m.key}
                  title={`${m.title} in all`}
                  text={figureText(sum(mine, m.name) * m.scale, m.unit, m.digits)}
                />
              ))}
            </Fragment>
          );
        })}
      </dl>
    </>
  );
}

const Row = ({ title, text }: { title: string; text: string }) => (
  <div className="flex justify-between gap-2">
    <dt className="text-soft">{title}</dt>
    <dd>{text}</dd>
  </div>
);
