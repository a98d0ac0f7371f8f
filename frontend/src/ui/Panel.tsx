import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./Button";

interface Props {
  title: string;
  /** What stands beside the title. */
  beside?: ReactNode;
  open: boolean;
  onOpenChange: (open: boolean) => void;
  /** What opens it, where that stands where the panel is written. */
  trigger?: ReactNode;
  children: ReactNode;
}

/** A panel over the page that is scrolled where it is longer than the window. */
export function Panel({ title, beside, open, onOpenChange, trigger, children }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      {trigger && <Dialog.Trigger asChild>{trigger}</Dialog.Trigger>}
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-veil" />
        <Dialog.Content
          className="floating fixed inset-y-[8vh] left-1/2 flex w-[44rem] max-w-[94vw] -translate-x-1/2 flex-col"
          aria-describedby={undefined}
        >
          <header className="flex items-baseline gap-3 border-b border-rule px-5 py-3">
            <Dialog.Title className="font-serif text-lg">{title}</Dialog.Title>
            <span className="grow text-[13px] text-soft">{beside}</span>
            <Dialog.Close asChild>
              <Button tone="quiet">Close</Button>
            </Dialog.Close>
          </header>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what is longer than the window is scrolled by keys */}
          <div className="grow overflow-y-auto px-5 py-4" tabIndex={0}>
            {children}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
