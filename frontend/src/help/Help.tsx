import { useMemo, useState } from "react";
import type { ClauseKind } from "../api/client";
import { useClauseKinds } from "../api/kinds";
import { Button } from "../ui/Button";
import { Panel } from "../ui/Panel";
import { Explain } from "../workbench/Explain";
import { useRound } from "./round";
import { type Entry, found } from "./words";

const KEYS: Entry[] = [
  ["Ctrl Z · Ctrl Shift Z", "undo · redo"],
  ["Ctrl C · Ctrl V", "copy the clause at hand · put copied ones below it, in any project"],
  ["o · p · x · y", "look oblique · in plan · along x · along y"],
  ["l", "labels on or off"],
  ["m", "measure"],
  ["/", "find by label"],
  ["Esc", "let go of what is picked"],
  ["↑ ↓ on a value", "one step; with Shift a tenth of it"],
  ["Enter on a value", "type a number, a formula, or feet and inches"],
  ["Arrows on a handle", "0.1 m; with Shift 0.01 m; with Alt out of its plane"],
  ["Shift click", "pick more than one, handles too"],
  ["Enter · Backspace · Esc on Trace", "end a curve · take its last point back · let it go"],
].map(([term, text]) => ({ term: term!, text: text! }));

/** Keys, words and clauses, to be searched; all of it comes with the application. */
export function Help() {
  const kinds = useClauseKinds();
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const [explained, setExplained] = useState<ClauseKind | null>(null);
  const { clauses, words, keys } = useMemo(() => found(kinds, KEYS, text), [kinds, text]);
  const begin = useRound((s) => s.begin);
  return (
    <>
      {explained && (
        <Explain
          kind={explained}
          outcome={undefined}
          open
          onOpenChange={(stays) => !stays && setExplained(null)}
        />
      )}
      <Panel
        title="Help"
        open={open}
        onOpenChange={setOpen}
        trigger={<Button tone="quiet">Help</Button>}
        beside={
          <input
            type="search"
            aria-label="Search the help"
            placeholder="a word, a key, what one wants to do"
            className="w-full rounded-sm border border-rule bg-field px-2 py-0.5 text-sm text-ink"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        }
      >
        {!text.trim() && (
          <p className="mb-4 flex items-baseline gap-3">
            <Button
              onClick={() => {
                setOpen(false);
                begin();
              }}
            >
              Show me round in seven steps
            </Button>
            <span className="text-soft">on this very statement, left at any time</span>
          </p>
        )}
        <Clauses clauses={clauses} onExplain={setExplained} />
        <Entries title="Words" entries={words} />
        <Entries title="Keys" entries={keys} mono />
        {!clauses.length && !words.length && !keys.length && (
          <p className="text-soft">Nothing here speaks of “{text}”; try another word.</p>
        )}
      </Panel>
    </>
  );
}

function Clauses({ clauses, onExplain }: { clauses: ClauseKind[]; onExplain: (kind: ClauseKind) => void }) {
  if (!clauses.length) return null;
  return (
    <section aria-label="Clauses" className="mb-4">
      <h3 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Clauses</h3>
      {clauses.map((kind) => (
        <button
          key={kind.kind}
          type="button"
          className="group block w-full py-0.5 text-left"
          onClick={() => onExplain(kind)}
        >
          <span className="font-serif text-[15px] group-hover:text-plum">{kind.title}</span>{" "}
          <span className="text-[13px] text-soft">{kind.summary}</span>
        </button>
      ))}
    </section>
  );
}

function Entries({ title, entries, mono = false }: { title: string; entries: Entry[]; mono?: boolean }) {
  if (!entries.length) return null;
  return (
    <section aria-label={title} className="mb-4">
      <h3 className="mb-1 text-[13px] tracking-widest text-soft uppercase">{title}</h3>
      <dl className="grid grid-cols-[minmax(8rem,auto)_1fr] gap-x-6 gap-y-1">
        {entries.map(({ term, text }) => (
          <div key={term + text} className="contents">
            <dt className={mono ? "font-mono text-[13px]" : "font-semibold"}>{term}</dt>
            <dd>{text}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
