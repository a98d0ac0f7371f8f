import { useLive, useOpened, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { membersOf } from "./bundles";

/** The name of a bundle: it folds what is here of it, chooses all of it, and switches all of it off. */
export function BundleHeading({ bundle, folds, count }: { bundle: string; folds: string; count: number }) {
  const { viewing, channel } = useOpened();
  const clauses = useLive((s) => s.statement?.clauses) ?? [];
  const open = useView((s) => !s.folded.has(folds));
  const { fold, set } = viewing.getState();
  const all = membersOf(clauses, bundle);
  const allOff = all.every((c) => c.off);
  const turn = () =>
    channel.edit({
      op: "together",
      edits: all.map((c) => ({ op: "switch", clause: c.id, off: !allOff })),
    });
  return (
    <h3 className="flex items-baseline gap-2 pt-1 pl-3 text-[13px]" data-bundle={bundle}>
      <button
        type="button"
        className="flex min-w-0 grow items-baseline gap-2 text-left hover:text-plum"
        aria-expanded={open}
        onClick={() => fold([folds], open)}
      >
        <span aria-hidden className="w-2 text-xs text-soft">
          {open ? "▾" : "▸"}
        </span>
        <span className="truncate font-semibold">{bundle}</span>
        <span className="shrink-0 text-soft">{count === 1 ? "1 clause" : `${count} clauses`}</span>
      </button>
      <Button
        tone="quiet"
        className="!px-1 !py-0"
        onClick={() => set({ chosen: new Set(all.map((c) => c.id)) })}
      >
        Choose
      </Button>
      <Button tone="quiet" className="!px-1 !py-0" onClick={() => void turn()}>
        {allOff ? "Switch on" : "Switch off"}
      </Button>
    </h3>
  );
}
