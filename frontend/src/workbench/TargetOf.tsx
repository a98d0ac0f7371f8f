import { Popover } from "radix-ui";
import type { Figure } from "../api/client";
import { useOpened } from "../state/opened";
import { Button } from "../ui/Button";
import { feetText, inFeet, typedLength } from "../ui/lengths";
import { plain } from "../ui/text";
import { aimed, type Target } from "./targets";

/** The name of a figure, behind which one says what it is to keep to. */
export function TargetOf({ figure, target }: { figure: Figure; target: Target | undefined }) {
  const { margin } = useOpened();
  const aim = (figure: string, target: Target | null) =>
    margin.note({ targets: aimed(margin.notes.getState().targets, figure, target) });
  if (typeof figure.value !== "number") return <>{figure.label}</>;
  const said = (end: keyof Target) => {
    const value = target?.[end];
    if (value === undefined || value === null) return "";
    return inFeet(figure.unit) ? feetText(value, figure.unit) : plain(value);
  };
  const take = (form: HTMLFormElement) => {
    const typed = new FormData(form);
    const end = (name: keyof Target) => {
      const text = String(typed.get(name) ?? "").trim();
      const value = typedLength(text, figure.unit) ?? Number(text.replace(",", "."));
      return text && Number.isFinite(value) ? value : undefined;
    };
    void aim(figure.name, { least: end("least"), most: end("most") });
  };
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button type="button" className="text-left hover:text-plum" title="Set what it is to keep to">
          {figure.label}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="floating px-3 py-2" side="left" sideOffset={6} collisionPadding={8}>
          <form
            key={`${said("least")} ${said("most")}`}
            className="flex flex-col gap-1.5"
            aria-label={`Target of ${figure.label}`}
            onSubmit={(e) => {
              e.preventDefault();
              take(e.currentTarget);
            }}
          >
            {(["least", "most"] as const).map((end) => (
              <label key={end} className="flex items-baseline gap-2">
                <span className="w-16 text-soft">at {end}</span>
                <input
                  name={end}
                  className="w-24 rounded-sm border border-rule bg-field px-1 text-right"
                  defaultValue={said(end)}
                />
                {inFeet(figure.unit) ? "" : figure.unit}
              </label>
            ))}
            <span className="flex gap-2">
              <Button type="submit">Keep to it</Button>
              {target && (
                <Button tone="quiet" onClick={() => void aim(figure.name, null)}>
                  Let go of it
                </Button>
              )}
            </span>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
