import { Popover } from "radix-ui";
import type { ReactNode } from "react";
import type { ValueSpec } from "../../api/client";
import { useOpened } from "../../state/opened";

interface Props {
  spec: ValueSpec;
  clause: string;
  wrong: boolean;
  /** How the value reads in the sentence. */
  words: string;
  wide?: boolean;
  children: ReactNode;
}

/** A value that is a list: how it reads, and a leaf with its entries that opens from there. */
export function ListPopover({ spec, clause, wrong, words, wide = false, children }: Props) {
  const { viewing } = useOpened();
  return (
    <Popover.Root onOpenChange={(open) => open && viewing.getState().set({ active: clause })}>
      <Popover.Trigger asChild>
        <button
          type="button"
          className={`live ${wrong ? "!text-brick" : ""}`}
          data-value={spec.name}
          title={spec.hint}
        >
          {words}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className={`floating p-3 ${wide ? "w-[25rem]" : "w-[22rem]"}`}
          align="start"
          sideOffset={4}
          collisionPadding={8}
          onOpenAutoFocus={(e) => e.preventDefault()}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
