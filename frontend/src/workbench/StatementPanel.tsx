import { Fragment, useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import type { ClauseEntry, ClauseKind } from "../api/client";
import { useClauseKinds } from "../api/kinds";
import { useLive, useOpened, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { figureText } from "../ui/text";
import { BundleHeading } from "./BundleHeading";
import { stretchesOf } from "./bundles";
import { ClauseView } from "./ClauseView";
import { Dimensions } from "./Dimensions";
import { Guide } from "./Guide";
import { chosen } from "./placing";
import { DropPlace } from "./Reorder";
import { allRemarks, counted } from "./remarks";
import { chapterRuns, headlinesOf, type Run, runsWith } from "./runs";
import { scrollToClause } from "./scrolling";

/** From so many clauses on there is something to find, and to fold away. */
const MANY = 6;
const HEADLINES = 3;

/** The statement as set text, chapter by chapter. */
export function StatementPanel() {
  const { live, viewing, channel, viewport } = useOpened();
  const statement = useLive((s) => s.statement);
  const outcomes = useLive((s) => s.outcomes);
  const folded = useView((s) => s.folded);
  const fold = useView((s) => s.fold);
  const kinds = useClauseKinds();
  const navigate = useNavigate();
  const [adding, setAdding] = useState<number | null>(null);
  const [text, setText] = useState("");
  if (!statement) return <p className="p-4 text-soft">Reading the statement …</p>;
  const clauses = statement.clauses ?? [];
  const byKind = Object.fromEntries(kinds.map((k) => [k.kind, k]));
  const says = (entry: ClauseEntry) =>
    `${byKind[entry.kind]?.title ?? entry.kind} ${outcomes[entry.id]?.sentence ?? ""}`;
  const runs = chapterRuns(clauses, byKind);
  const shown = runsWith(runs, text, says);
  const ids = clauses.map((c) => c.id);
  const finding = text.trim() !== "";
  const insert = (kind: ClauseKind, at: number) => {
    const edit = chosen(kind, clauses, at, viewport);
    const added = channel.edit(edit);
    setText("");
    // What is shown is the one that is there, until the new one is.
    void added.then((done) => {
      if (!done) return;
      viewing.getState().set({ active: edit.clause.id });
      requestAnimationFrame(() => scrollToClause(edit.clause.id, "nearest"));
    });
    // What begins empty is drawn first.
    if (kind.values.some((v) => v.kind === "curves" && kind.begins[v.name]))
      navigate(`/p/${live.getState().project}/trace`);
  };
  const allFolded = runs.every((run) => folded.has(run.key));
  return (
    <div className="px-3 pt-3 pb-8">
      <Dimensions />
      {clauses.length >= MANY && (
        <div className="mt-1 flex items-baseline gap-2 pl-3 text-[13px] text-soft">
          <input
            type="search"
            aria-label="Find in the statement"
            placeholder={`find in ${clauses.length} clauses`}
            className="min-w-0 grow rounded-sm border border-rule bg-field px-2 py-0.5 text-ink"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <Button
            tone="quiet"
            className="!px-1 !py-0"
            onClick={() =>
              fold(
                runs.map((run) => run.key),
                !allFolded,
              )
            }
          >
            {allFolded ? "Unfold all" : "Fold all"}
          </Button>
        </div>
      )}
      {shown.map((run) => (
        <section key={run.key} data-run={run.key} aria-label={run.chapter || "Unknown"}>
          <ChapterHeading run={run} open={finding || !folded.has(run.key)} />
          {(finding || !folded.has(run.key)) &&
            stretchesOf(run.entries).map(({ bundle, entries }) => {
              const folds = `${run.key} ${bundle} ${entries[0]!.entry.id}`;
              return (
                <Fragment key={entries[0]!.entry.id}>
                  {bundle && <BundleHeading bundle={bundle} folds={folds} count={entries.length} />}
                  <div className={bundle ? "ml-2 border-l border-rule" : undefined}>
                    {(!bundle || finding || !folded.has(folds)) &&
                      entries.map(({ entry, index }) => (
                        <DropPlace key={entry.id} index={index} ids={ids}>
                          <ClauseView
                            entry={entry}
                            index={index}
                            count={clauses.length}
                            kind={byKind[entry.kind]}
                            kinds={kinds}
                            onInsert={setAdding}
                          />
                        </DropPlace>
                      ))}
                  </div>
                </Fragment>
              );
            })}
        </section>
      ))}
      {finding && shown.length === 0 && <p className="mt-3 pl-3 text-soft">No clause speaks of “{text}”.</p>}
      {clauses.length === 0 && (
        <p className="pl-3 font-serif text-[16.5px] text-soft">
          This statement is empty. Begin with a shape: a loft through profiles, a dome, or curves of your own;
          or choose a{" "}
          <Link className="live" to="/new">
            beginning
          </Link>
          .
        </p>
      )}
      <div className="mt-3 pl-3">
        <Button onClick={() => setAdding(clauses.length)}>Add a clause</Button>
      </div>
      <Guide
        kinds={kinds}
        before={clauses.slice(0, adding ?? clauses.length)}
        open={adding !== null}
        onOpenChange={(open) => !open && setAdding(null)}
        onChoose={(kind) => insert(kind, adding ?? clauses.length)}
      />
    </div>
  );
}

/** The name of a chapter; folded, with its headline figures and what is wrong in it. */
function ChapterHeading({ run, open }: { run: Run; open: boolean }) {
  const outcomes = useLive((s) => s.outcomes);
  const fold = useView((s) => s.fold);
  const { failed, warned } = counted(
    allRemarks(
      run.entries.map(({ entry }) => entry),
      outcomes,
    ),
  );
  const count = run.entries.length;
  return (
    <h2 className="mt-2 pt-1 pb-0.5 pl-3 text-[13px] text-soft">
      <button
        type="button"
        className="flex w-full items-baseline gap-2 text-left hover:text-plum"
        aria-expanded={open}
        onClick={() => fold([run.key], open)}
      >
        <span aria-hidden className="w-2 text-xs">
          {open ? "▾" : "▸"}
        </span>
        <span className="tracking-widest uppercase">{run.chapter}</span>
        {!open && <span>{count === 1 ? "1 clause" : `${count} clauses`}</span>}
        {!open && (failed || warned) && (
          <span className={failed ? "text-brick" : "text-amber"}>{failed || warned}</span>
        )}
      </button>
      {!open && (
        <span className="flex flex-wrap gap-x-3 pl-4">
          {headlinesOf(run, outcomes, HEADLINES).map((f) => (
            <span key={f.name}>
              {f.label} <span className="text-ink">{figureText(f.value, f.unit, f.decimals)}</span>
            </span>
          ))}
        </span>
      )}
    </h2>
  );
}
