import { Dialog } from "radix-ui";
import { useMemo, useState } from "react";
import type { ClauseEntry, ClauseKind } from "../api/client";
import { Button } from "../ui/Button";
import { comingNext, kindsFor } from "./guided";

const NEXT = "Can come next";

interface Props {
  kinds: ClauseKind[];
  /** The clauses above the one that is put in. */
  before: readonly ClauseEntry[];
  open: boolean;
  onOpenChange: (open: boolean) => void;
  onChoose: (kind: ClauseKind) => void;
}

/** All clauses by what they are for, each with a picture and two lines; choosing one puts it into the statement. */
export function Guide({ kinds, before, open, onOpenChange, onChoose }: Props) {
  const [text, setText] = useState("");
  const groups = useMemo(() => {
    if (text.trim()) return [["Found", kindsFor(kinds, text)] as const].filter(([, found]) => found.length);
    const next = comingNext(kinds, before);
    const out = new Map<string, readonly ClauseKind[]>(next.length ? [[NEXT, next]] : []);
    for (const k of kinds) out.set(k.group, [...(out.get(k.group) ?? []), k]);
    return [...out];
  }, [kinds, text, before]);
  const choose = (kind: ClauseKind) => {
    onOpenChange(false);
    setText("");
    onChoose(kind);
  };
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-veil" />
        <Dialog.Content
          className="floating fixed inset-x-[7vw] inset-y-[6vh] flex flex-col"
          aria-describedby={undefined}
        >
          <div className="flex items-baseline gap-4 border-b border-rule px-5 py-3">
            <Dialog.Title className="font-serif text-lg">Add a clause</Dialog.Title>
            <input
              aria-label="Search the guide"
              placeholder="search: bars, steel, cut …"
              className="w-64 rounded-sm border border-rule bg-field px-2 py-0.5"
              value={text}
              onChange={(e) => setText(e.target.value)}
              onKeyDown={(e) => {
                const only = groups[0]?.[1][0];
                if (e.key === "Enter" && text.trim() && only) choose(only);
              }}
            />
            <nav className="flex gap-3 text-sm text-soft" aria-label="Groups">
              {(text.trim() ? [] : groups).map(([group]) => (
                <a
                  key={group}
                  href={`#guide-${group}`}
                  className="hover:text-plum"
                  onClick={(e) => {
                    e.preventDefault();
                    document.getElementById(`guide-${group}`)?.scrollIntoView({ block: "start" });
                  }}
                >
                  {group}
                </a>
              ))}
            </nav>
            <span className="grow" />
            <Dialog.Close asChild>
              <Button tone="quiet">Close</Button>
            </Dialog.Close>
          </div>
          <div className="grow overflow-y-auto px-5 pb-6">
            {groups.map(([group, members]) => (
              <section key={group} id={`guide-${group}`} aria-label={group}>
                <h3 className="sticky top-0 bg-leaf pt-3 pb-1 text-[13px] tracking-widest text-soft uppercase">
                  {group}
                </h3>
                <div className="grid grid-cols-[repeat(auto-fill,minmax(12.5rem,1fr))] gap-x-4 gap-y-3">
                  {members.map((k) => (
                    <button
                      key={k.kind}
                      type="button"
                      data-guide={k.kind}
                      className="group flex flex-col items-start justify-start border-t border-rule pt-2 text-left hover:border-plum"
                      onClick={() => choose(k)}
                    >
                      {k.has_picture && (
                        <img
                          src={`/api/guide/${k.kind}.png`}
                          alt=""
                          loading="lazy"
                          width={288}
                          height={180}
                          className="mb-1.5 h-auto w-full bg-ground"
                        />
                      )}
                      <span className="block font-serif text-[16px] group-hover:text-plum">{k.title}</span>
                      <span className="block text-[13px] leading-snug">{k.summary}</span>
                      <span className="block text-[13px] leading-snug text-soft">{k.explained}</span>
                    </button>
                  ))}
                </div>
              </section>
            ))}
            {groups.length === 0 && (
              <p className="pt-6 text-soft">Nothing in the guide speaks of “{text}”; try another word.</p>
            )}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
