import { useState } from "react";
import type { ClauseEntry } from "../api/client";
import { useLive, useOpened, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { asText } from "./clipboard";

/** What can be done with clauses that are chosen together: each a single step of the history. */
export function ChosenBar() {
  const clauses = useLive((s) => s.statement?.clauses) ?? [];
  const ids = useView((s) => s.chosen);
  const chosen = clauses.filter((c) => ids.has(c.id));
  if (!chosen.length) return null;
  return <Chosen key={chosen.map((c) => c.id).join()} chosen={chosen} />;
}

function Chosen({ chosen }: { chosen: ClauseEntry[] }) {
  const { live, viewing, channel } = useOpened();
  const letGo = () => viewing.getState().set({ chosen: new Set() });
  const shared = new Set(chosen.map((c) => c.bundle ?? ""));
  const own = shared.size === 1 ? [...shared][0]! : "";
  const [name, setName] = useState(own);
  const allOff = chosen.every((c) => c.off);
  const bundle = (text: string) =>
    channel.edit({
      op: "together",
      edits: chosen.map((c) => ({ op: "bundle", clause: c.id, bundle: text })),
    });
  const turn = () =>
    channel.edit({
      op: "together",
      edits: chosen.map((c) => ({ op: "switch", clause: c.id, off: !allOff })),
    });
  const remove = async () => {
    const edits = [...chosen].reverse().map((c) => ({ op: "remove" as const, clause: c.id }));
    if (await channel.edit({ op: "together", edits })) letGo();
  };
  const copy = () =>
    navigator.clipboard
      .writeText(asText(chosen))
      .catch(() => live.setState({ problem: "The browser did not let the clauses be copied." }));
  return (
    <form
      className="flex shrink-0 flex-wrap items-center gap-1.5 border-t border-rule bg-leaf px-3 py-2 text-[13px]"
      aria-label="Clauses chosen together"
      onSubmit={(e) => {
        e.preventDefault();
        void bundle(name.trim());
      }}
    >
      <span className="font-semibold text-plum">
        {chosen.length === 1 ? "1 clause" : `${chosen.length} clauses`}
      </span>
      <Button onClick={() => void turn()}>{allOff ? "Switch on" : "Switch off"}</Button>
      <Button onClick={() => void copy()}>Copy</Button>
      <Button onClick={() => void remove()}>Remove</Button>
      <Button tone="quiet" onClick={letGo}>
        Let go
      </Button>
      <span className="flex w-full gap-1.5">
        <input
          aria-label="Name of the bundle"
          placeholder="Bundle them as: roof, columns …"
          className="min-w-0 grow rounded-sm border border-rule bg-field px-2 py-0.5"
          maxLength={40}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit" disabled={name.trim() === own}>
          {name.trim() || !own ? "Bundle" : "Part them"}
        </Button>
      </span>
    </form>
  );
}
