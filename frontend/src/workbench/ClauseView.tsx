import { memo, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import type { ClauseEntry, ClauseKind, Outcome } from "../api/client";
import { taken } from "../live/inputs";
import { type Opened, useLive, useOpened, useResults, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { useLengths } from "../ui/lengths";
import { ChoiceEntries, Menu, MenuEntry, MenuHeading, MenuRule } from "../ui/Menu";
import { ProgressBar } from "../ui/ProgressBar";
import { figureText, secondsText } from "../ui/text";
import { chosenWith } from "./bundles";
import { asText } from "./clipboard";
import { Explain } from "./Explain";
import { freshId } from "./freshId";
import { GoesOn } from "./GoesOn";
import { ownFigures } from "./headlines";
import { RemarkLine } from "./RemarkLine";
import { Grip } from "./Reorder";
import { remarksOf } from "./remarks";
import { Sketches } from "./SketchOf";
import { sourceTitle } from "./sourceTitle";
import { Value } from "./values/Value";
import { partsOf, type segmentsOf } from "./values/values";

const FIGURES_SHOWN = 4;
/** How long (s) work takes that has no figures of its own, but whose time is told. */
const WORTH_TELLING_S = 1;

interface Props {
  entry: ClauseEntry;
  index: number;
  count: number;
  kind: ClauseKind | undefined;
  kinds: ClauseKind[];
  onInsert: (at: number) => void;
}

/** How clauses look that the one that is pointed at works on, or that work on it. */
const BONDS = {
  none: "",
  below: "shadow-[inset_3px_0_0_var(--color-moss)]",
  above: "shadow-[inset_3px_0_0_var(--color-amber)]",
};

/** Whether the clause that is pointed at works on this one, which lies below it in what is made, or this one on that. */
function useBond(id: string): "below" | "above" | undefined {
  const lit = useView((s) => s.lit);
  return useLive((s) => {
    if (!lit || lit === id) return undefined;
    if (taken(s.outcomes[lit]).includes(id)) return "below";
    return taken(s.outcomes[id]).includes(lit) ? "above" : undefined;
  });
}

/** Chooses a clause, with those that are chosen or with all up to it. */
function choose({ live, viewing }: Opened, id: string, upTo: boolean) {
  const clauses = live.getState().statement?.clauses ?? [];
  const { chosen, set } = viewing.getState();
  set({ chosen: chosenWith(clauses, chosen, id, upTo) });
}

/** One clause: its sentence with live values, its figures, its warnings. */
export function ClauseView({ entry, index, count, kind, kinds, onInsert }: Props) {
  const opened = useOpened();
  const outcome = useLive((s) => s.outcomes[entry.id]);
  const active = useView((s) => s.active === entry.id);
  const progress = useLive((s) => (s.progress?.clause === entry.id ? s.progress.share : null));
  const set = useView((s) => s.set);
  const made = outcome?.status === "done";
  const folded = useView((s) => s.folded.has(entry.id));
  const bond = useBond(entry.id);
  const whole = useView((s) => s.whole.has(entry.id));
  const chosen = useView((s) => s.chosen.has(entry.id));
  return (
    <section
      data-clause={entry.id}
      data-chosen={chosen || undefined}
      data-bond={bond}
      aria-label={kind?.title ?? entry.kind}
      className={`group/clause relative border-l-2 py-1.5 pr-1 pl-3 ${active ? "border-plum" : "border-transparent"} ${BONDS[bond ?? "none"]} ${chosen ? "bg-plum-pale" : ""} ${entry.off ? "opacity-50" : ""}`}
      onPointerEnter={() => set({ lit: entry.id })}
      onPointerLeave={() => set({ lit: null })}
      onFocusCapture={() => set({ active: entry.id })}
      onPointerDown={(e) => {
        set({ active: entry.id });
        // What lies within a sentence has its own use of these keys.
        if (!(e.ctrlKey || e.metaKey || e.shiftKey) || (e.target as Element).closest("button, input, a"))
          return;
        e.preventDefault();
        choose(opened, entry.id, e.shiftKey);
      }}
    >
      <Grip index={index} />
      <div className="flex gap-2">
        <p className={`grow font-serif text-[16.5px] leading-[1.55] ${entry.off ? "line-through" : ""}`}>
          {kind && folded ? (
            <Folded entry={entry} kind={kind} outcome={outcome} />
          ) : kind ? (
            <>
              <Sentence entry={entry} kind={kind} outcome={outcome} />
              <AskedFor kind={kind} outcome={outcome} />
            </>
          ) : (
            <em>An unknown clause, “{entry.kind}”.</em>
          )}
        </p>
        <ClauseMenu entry={entry} index={index} count={count} kind={kind} kinds={kinds} onInsert={onInsert} />
      </div>
      {kind && whole && !folded && <Sketches entry={entry} kind={kind} outcome={outcome} />}
      {outcome && made && !entry.off && !folded && <Figures outcome={outcome} />}
      {progress !== null && <ProgressBar share={progress} className="w-full" />}
      {kind?.goes_on && !entry.off && !folded && (
        <GoesOn entry={entry} value={kind.goes_on} outcome={outcome} />
      )}
      {remarksOf(entry.id, outcome).map((remark, k) => (
        <RemarkLine key={k} remark={remark} />
      ))}
      <Idle entry={entry} kind={kind} />
    </section>
  );
}

/** The first words of a clause, behind which the rest is. */
function Folded({ entry, kind, outcome }: { entry: ClauseEntry; kind: ClauseKind; outcome?: Outcome }) {
  const fold = useView((s) => s.fold);
  return (
    <button
      type="button"
      className="w-full truncate text-left hover:text-plum"
      aria-expanded={false}
      title={outcome?.sentence}
      onClick={() => fold([entry.id], false)}
    >
      <strong>{kind.title}</strong> …
    </button>
  );
}

/** A clause that only serves others says when none of them uses it. */
function Idle({ entry, kind }: { entry: ClauseEntry; kind: ClauseKind | undefined }) {
  const used = useLive((s) => Object.values(s.outcomes).some((o) => taken(o).includes(entry.id)));
  const done = useLive((s) => s.outcomes[entry.id]?.status === "done");
  if (!kind?.serves || used || !done || entry.off) return null;
  return <p className="mt-1 text-[13px] text-soft">Nothing below uses this yet.</p>;
}

function Sentence({
  entry,
  kind,
  outcome,
}: {
  entry: ClauseEntry;
  kind: ClauseKind;
  outcome: Outcome | undefined;
}) {
  const { viewing } = useOpened();
  const { first, rest, set } = partsOf(entry, kind);
  const opened = useView((s) => s.whole.has(entry.id));
  const setView = useView((s) => s.set);
  const atFault = outcome?.status === "failed" ? outcome.error_value : null;
  const whole = opened || rest.some((s) => s.value && s.value === atFault);
  const word = whole ? "less" : set ? `more, ${set} set` : "more";
  const turn = () => {
    const ids = new Set(viewing.getState().whole);
    if (!ids.delete(entry.id)) ids.add(entry.id);
    setView({ whole: ids });
  };
  return (
    <>
      <Told segments={whole ? [...first, ...rest] : first} entry={entry} kind={kind} outcome={outcome} />
      {rest.length > 0 && (
        <button
          type="button"
          className="ml-1 font-sans text-[13px] text-soft underline decoration-dotted underline-offset-4 hover:text-plum"
          aria-expanded={whole}
          aria-label={`${word} of ${kind.title}`}
          data-more={kind.kind}
          onClick={turn}
        >
          {word}
        </button>
      )}
    </>
  );
}

function Told({
  segments: told,
  entry,
  kind,
  outcome,
}: {
  segments: ReturnType<typeof segmentsOf>;
  entry: ClauseEntry;
  kind: ClauseKind;
  outcome: Outcome | undefined;
}) {
  const specs = Object.fromEntries(kind.values.map((v) => [v.name, v]));
  return told.map((s, k) => {
    const spec = s.value ? specs[s.value] : undefined;
    if (!spec) {
      const text = told[k - 1]?.value ? s.text.replace(STOP, "") : s.text;
      return s.strong ? <strong key={k}>{text}</strong> : <span key={k}>{text}</span>;
    }
    // A stop stays on the line of the value it follows.
    const stop = told[k + 1]?.value ? "" : (told[k + 1]?.text.match(STOP)?.[0] ?? "");
    return (
      <span key={k} className={stop ? "inline-flex max-w-full items-baseline" : undefined}>
        <Value
          entry={entry}
          spec={spec}
          resolved={outcome?.resolved[spec.name]}
          wrong={outcome?.status === "failed" && outcome.error_value === spec.name}
        />
        {stop}
      </span>
    );
  });
}

const STOP = /^[,.;:]/;

function Figures({ outcome }: { outcome: Outcome }) {
  const [all, setAll] = useState(false);
  useLengths(); // written anew when lengths are read otherwise
  const figures = ownFigures(useResults(), outcome);
  const more = figures.length - FIGURES_SHOWN;
  // A time alone is worth a line only where one waited for it.
  if (!figures.length && outcome.seconds < WORTH_TELLING_S) return null;
  return (
    <p className="flex flex-wrap gap-x-3 text-[13px] text-soft">
      {figures.slice(0, all ? undefined : FIGURES_SHOWN).map((f) => (
        <span key={f.name} data-of-clause={f.name}>
          {f.label}{" "}
          <span className={f.pending ? "" : "text-ink"}>{figureText(f.value, f.unit, f.decimals)}</span>
        </span>
      ))}
      {more > 0 && (
        <button
          type="button"
          className="underline decoration-dotted underline-offset-4 hover:text-plum"
          aria-expanded={all}
          onClick={() => setAll(!all)}
        >
          {all ? "fewer figures" : `${more} more`}
        </button>
      )}
      <span className="ml-auto" title="Time taken">
        {secondsText(outcome.seconds)}
      </span>
    </p>
  );
}

const ClauseMenu = memo(function ClauseMenu(props: Props) {
  const [explaining, setExplaining] = useState(false);
  const outcome = useLive((s) => (explaining ? s.outcomes[props.entry.id] : undefined));
  return (
    <>
      {props.kind && (
        <Explain kind={props.kind} outcome={outcome} open={explaining} onOpenChange={setExplaining} />
      )}
      <Menu
        align="end"
        trigger={
          <Button
            tone="quiet"
            className="h-7 self-start !px-1.5"
            aria-label={`More for ${props.kind?.title ?? props.entry.kind}`}
          >
            ⋯
          </Button>
        }
      >
        <ClauseMenuEntries {...props} onExplain={() => setExplaining(true)} />
      </Menu>
    </>
  );
});

function ClauseMenuEntries({
  entry,
  index,
  count,
  kind,
  kinds,
  onInsert,
  onExplain,
}: Props & { onExplain: () => void }) {
  const opened = useOpened();
  const { live, channel } = opened;
  const clauses = useLive((s) => s.statement?.clauses) ?? [];
  const before = clauses.slice(0, index);
  const folded = useView((s) => s.folded.has(entry.id));
  const fold = useView((s) => s.fold);
  const chosen = useView((s) => s.chosen.has(entry.id));
  const copy = () =>
    navigator.clipboard
      .writeText(asText([entry]))
      .catch(() => live.setState({ problem: "The browser did not let the clause be copied; Ctrl C works." }));
  const duplicate = () => {
    const id = freshId(entry.kind, clauses);
    void channel.edit({ op: "add", at: index + 1, clause: { ...structuredClone(entry), id } });
  };
  return (
    <>
      {kind && <MenuEntry onSelect={onExplain}>Explain …</MenuEntry>}
      <MenuEntry onSelect={() => fold([entry.id], !folded)}>{folded ? "Unfold" : "Fold"}</MenuEntry>
      <MenuEntry onSelect={() => choose(opened, entry.id, false)}>
        {chosen ? "Choose no more" : "Choose, with others"}
      </MenuEntry>
      <MenuEntry onSelect={duplicate}>Duplicate</MenuEntry>
      <MenuEntry onSelect={() => void copy()}>Copy as text</MenuEntry>
      <MenuEntry onSelect={() => void channel.edit({ op: "switch", clause: entry.id, off: !entry.off })}>
        {entry.off ? "Switch on" : "Switch off"}
      </MenuEntry>
      <MenuEntry
        disabled={index === 0}
        onSelect={() => void channel.edit({ op: "move", clause: entry.id, to: index - 1 })}
      >
        Move up
      </MenuEntry>
      <MenuEntry
        disabled={index === count - 1}
        onSelect={() => void channel.edit({ op: "move", clause: entry.id, to: index + 1 })}
      >
        Move down
      </MenuEntry>
      <MenuEntry onSelect={() => void channel.edit({ op: "remove", clause: entry.id })}>Remove</MenuEntry>
      {kind?.gives === "Curves" && (
        <>
          <MenuRule />
          {["svg", "dxf"].map((ending) => (
            <MenuEntry
              key={ending}
              onSelect={() =>
                location.assign(`/api/projects/${live.getState().project}/curves/${entry.id}.${ending}`)
              }
            >
              Save its curves as {ending.toUpperCase()}
            </MenuEntry>
          ))}
        </>
      )}
      {kind?.takes.map((take) => (
        <Sources key={take.name} entry={entry} take={take} clauses={clauses} before={before} kinds={kinds} />
      ))}
      <MenuRule />
      <MenuEntry onSelect={() => onInsert(index + 1)}>Insert below …</MenuEntry>
    </>
  );
}

/** Stands for an input that is to stay empty, among ids of clauses. */
const NONE = "(none)";

/** What a clause works on because it was asked to, which its sentence does not say. */
function AskedFor({ kind, outcome }: { kind: ClauseKind; outcome: Outcome | undefined }) {
  const clauses = useLive((s) => s.statement?.clauses) ?? [];
  const numbered = (id: string) => clauses.findIndex((c) => c.id === id) + 1;
  return kind.takes
    .filter((take) => take.asked)
    .flatMap((take) => (outcome?.inputs[take.name] ?? []).map((id) => ({ take, id })))
    .map(({ take, id }) => (
      <span key={`${take.name} ${id}`} className="ml-1 font-sans text-soft text-xs">
        {`${take.label}: clause\u00a0${numbered(id)}`}
      </span>
    ));
}

/** Which earlier clauses an input comes from: the nearest unless one is chosen; of some inputs several. */
function Sources({
  entry,
  take,
  clauses,
  before,
  kinds,
}: {
  entry: ClauseEntry;
  take: ClauseKind["takes"][number];
  clauses: ClauseEntry[];
  before: ClauseEntry[];
  kinds: ClauseKind[];
}) {
  const { channel } = useOpened();
  const used = useLive((s) => s.outcomes[entry.id])?.inputs[take.name] ?? [];
  const sentences = useLive(
    useShallow((s) => Object.fromEntries(before.map((c) => [c.id, s.outcomes[c.id]?.sentence ?? ""]))),
  );
  const givers = before.filter((c) => take.types.includes(kinds.find((k) => k.kind === c.kind)?.gives ?? ""));
  const chosen = entry.on?.[take.name];
  const peers =
    kinds.find((k) => k.kind === entry.kind)?.takes.filter((t) => t.types.join() === take.types.join())
      .length ?? 1;
  const asked = take.asked || (take.optional && peers > 1);
  const empty = Array.isArray(chosen) && chosen.length === 0;
  if (givers.length < (take.optional ? 1 : 2) && !chosen) return null;
  const title = (c: ClauseEntry) => {
    const twins = givers.filter((other) => other.kind === c.kind).length > 1;
    const said = sourceTitle(kinds.find((k) => k.kind === c.kind)?.title ?? c.kind, sentences[c.id], twins);
    return `${said} (${clauses.indexOf(c) + 1})`;
  };
  const set = (source: string | string[] | null) =>
    void channel.edit({ op: "on", clause: entry.id, input: take.name, source });
  const nearest = used.length ? ` (${clauses.findIndex((c) => c.id === used[0]) + 1})` : "";
  if (take.many) {
    const listed = Array.isArray(chosen) ? chosen : used;
    return (
      <>
        <MenuRule />
        <MenuHeading>{take.label} to work on, in this order</MenuHeading>
        <MenuEntry onSelect={() => set(null)}>
          <span className="w-3 text-plum">{chosen ? "" : "•"}</span>all that nothing else has taken up
        </MenuEntry>
        {givers.map((c) => (
          <MenuEntry
            key={c.id}
            onSelect={() => set(listed.includes(c.id) ? listed.filter((u) => u !== c.id) : [...listed, c.id])}
          >
            <span className="w-3 text-plum">{listed.includes(c.id) ? listed.indexOf(c.id) + 1 : ""}</span>
            {title(c)}
          </MenuEntry>
        ))}
      </>
    );
  }
  return (
    <>
      <MenuRule />
      <MenuHeading>{take.asked ? take.label : `${take.label} to work on`}</MenuHeading>
      <ChoiceEntries
        value={typeof chosen === "string" ? chosen : empty ? NONE : ""}
        onChoose={(source) => set(source === NONE ? [] : source || null)}
        choices={[
          { key: "", title: asked ? "none" : `the nearest above${chosen ? "" : nearest}` },
          ...(take.optional && !asked ? [{ key: NONE, title: "none" }] : []),
          ...givers.map((c) => ({ key: c.id, title: title(c) })),
        ]}
      />
    </>
  );
}
