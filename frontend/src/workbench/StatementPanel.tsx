import { Fragment, useState } from "react";
import type { ClauseKind } from "../api/client";
import { useClauseKinds } from "../api/kinds";
import { channel, useLive } from "../live/live";
import { useView } from "../state/view";
import { Button } from "../ui/Button";
import { ClauseView, freshId } from "./ClauseView";
import { Dimensions } from "./Dimensions";
import { Guide } from "./Guide";

/** The statement as set text, chapter by chapter. */
export function StatementPanel() {
  const statement = useLive((s) => s.statement);
  const kinds = useClauseKinds();
  const [adding, setAdding] = useState<number | null>(null);
  if (!statement) return <p className="p-4 text-soft">Reading the statement …</p>;
  const clauses = statement.clauses ?? [];
  const byKind = Object.fromEntries(kinds.map((k) => [k.kind, k]));
  const insert = (kind: ClauseKind, at: number) => {
    const id = freshId(kind.kind, clauses);
    void channel.edit({ op: "add", at, clause: { id, kind: kind.kind, off: false, on: {}, values: {} } });
    useView.getState().set({ active: id });
  };
  return (
    <div className="px-3 pt-3 pb-8">
      <Dimensions />
      {clauses.map((entry, i) => {
        const chapter = byKind[entry.kind]?.chapter ?? "";
        const first = i === 0 || byKind[clauses[i - 1]!.kind]?.chapter !== chapter;
        return (
          <Fragment key={entry.id}>
            {first && (
              <h2 className="mt-3 mb-0.5 pl-3 text-[13px] tracking-widest text-soft uppercase">{chapter}</h2>
            )}
            <ClauseView
              entry={entry}
              index={i}
              count={clauses.length}
              kind={byKind[entry.kind]}
              kinds={kinds}
              onInsert={setAdding}
            />
          </Fragment>
        );
      })}
      {clauses.length === 0 && (
        <p className="pl-3 font-serif text-[16.5px] text-soft">
          This statement is empty. Begin with a shape: a loft through profiles, a dome, or curves of your own.
        </p>
      )}
      <div className="mt-3 pl-3">
        <Button onClick={() => setAdding(clauses.length)}>Add a clause</Button>
      </div>
      <Guide
        kinds={kinds}
        open={adding !== null}
        onOpenChange={(open) => !open && setAdding(null)}
        onChoose={(kind) => insert(kind, adding ?? clauses.length)}
      />
    </div>
  );
}
