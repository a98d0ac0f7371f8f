import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

/** A menu of words behind a trigger. */
export function Menu({
  trigger,
  children,
  align = "start",
}: {
  trigger: ReactNode;
  children: ReactNode;
  align?: "start" | "end";
}) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          className="floating max-h-[min(70vh,var(--radix-dropdown-menu-content-available-height))] max-w-[30rem] overflow-auto py-1"
          align={align}
          sideOffset={4}
          collisionPadding={8}
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export function MenuEntry({
  onSelect,
  children,
  disabled,
}: {
  onSelect: () => void;
  children: ReactNode;
  disabled?: boolean;
}) {
  return (
    <DropdownMenu.Item className="entry" onSelect={onSelect} disabled={disabled}>
      {children}
    </DropdownMenu.Item>
  );
}

export function MenuHeading({ children }: { children: ReactNode }) {
  return <DropdownMenu.Label className="px-3 pt-2 pb-1 text-xs text-soft">{children}</DropdownMenu.Label>;
}

export const MenuRule = () => <DropdownMenu.Separator className="my-1 h-px bg-rule" />;

/** A menu in which one entry is the present one. */
export function ChoiceEntries({
  value,
  onChoose,
  choices,
}: {
  value: string;
  onChoose: (key: string) => void;
  choices: { key: string; title: string }[];
}) {
  return (
    <DropdownMenu.RadioGroup value={value} onValueChange={onChoose}>
      {choices.map((c) => (
        <DropdownMenu.RadioItem key={c.key} value={c.key} className="entry">
          <span className="w-3 text-plum">{c.key === value ? "•" : ""}</span>
          {c.title}
        </DropdownMenu.RadioItem>
      ))}
    </DropdownMenu.RadioGroup>
  );
}

/** Entries that are each on or off; the menu stays open while they are turned. */
export function TickEntries({
  entries,
  isTicked,
  onTurn,
}: {
  entries: { key: string; title: string }[];
  isTicked: (key: string) => boolean;
  onTurn: (key: string) => void;
}) {
  return entries.map(({ key, title }) => (
    <DropdownMenu.CheckboxItem
      key={key}
      className="entry"
      checked={isTicked(key)}
      onSelect={(e) => e.preventDefault()}
      onCheckedChange={() => onTurn(key)}
    >
      <span className="w-3 text-plum">{isTicked(key) ? "✓" : ""}</span>
      {title}
    </DropdownMenu.CheckboxItem>
  ));
}

/** Entries as pictures, of which one is the present one. */
export function PicturedEntries({
  value,
  onChoose,
  choices,
  pictureOf,
}: {
  value: string;
  onChoose: (key: string) => void;
  choices: { key: string; title: string }[];
  pictureOf: (key: string) => string;
}) {
  return (
    <DropdownMenu.RadioGroup
      value={value}
      onValueChange={onChoose}
      className={`grid gap-1 px-2 ${choices.length > 4 ? "grid-cols-3" : "grid-cols-2"}`}
    >
      {choices.map((c) => (
        <DropdownMenu.RadioItem
          key={c.key}
          value={c.key}
          className={`w-36 cursor-pointer rounded-sm border p-1 outline-none data-[highlighted]:bg-plum-pale ${c.key === value ? "border-plum" : "border-transparent"}`}
        >
          <img
            src={pictureOf(c.key)}
            alt=""
            loading="lazy"
            width={288}
            height={180}
            className="h-auto w-full bg-ground"
          />
          <span className="block text-[13px] leading-snug">{c.title}</span>
        </DropdownMenu.RadioItem>
      ))}
    </DropdownMenu.RadioGroup>
  );
}
