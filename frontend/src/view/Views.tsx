import { Popover } from "radix-ui";
import { useState } from "react";
import { useLive } from "../live/live";
import { Button } from "../ui/Button";
import { freeName, goToView, keepViews, presentView, type SavedView, savedViews } from "./savedViews";
import type { Viewport } from "./viewport";

/** Pixels across a picture that is saved. */
const WIDE = 2400;

/** Views one comes back to, and a picture of the present one. */
export function Views({ view }: { view: Viewport }) {
  const project = useLive((s) => s.project) ?? "";
  const name = useLive((s) => s.statement?.name) ?? "model";
  const [views, setViews] = useState<SavedView[]>([]);
  const keep = (next: SavedView[]) => {
    keepViews(project, next);
    setViews(next);
  };
  const rename = (at: number, typed: string) => {
    const name = typed.trim().slice(0, 60);
    if (name && !views.some((v) => v.name === name))
      keep(views.map((v, k) => (k === at ? { ...v, name } : v)));
  };
  const save = async () => {
    const picture = await view.photograph(WIDE);
    if (!picture) return;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(picture);
    link.download = `${name}.png`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  };
  return (
    <Popover.Root onOpenChange={(open) => open && setViews(savedViews(project))}>
      <Popover.Trigger asChild>
        <button type="button" className="live !font-normal ml-1.5">
          Views
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="floating w-64 px-3 py-2"
          side="top"
          sideOffset={6}
          collisionPadding={8}
          aria-label="Views"
        >
          {!views.length && <p className="pb-1 text-soft">None is kept yet.</p>}
          {views.map((saved, k) => (
            <div key={saved.name} className="flex items-center gap-2">
              <input
                aria-label={`Name of ${saved.name}`}
                className="min-w-0 grow rounded-sm border border-transparent bg-transparent px-1 hover:border-rule focus:border-plum"
                defaultValue={saved.name}
                onBlur={(e) => rename(k, e.currentTarget.value)}
                onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
              />
              <Button aria-label={`See ${saved.name}`} onClick={() => goToView(view, saved)}>
                See
              </Button>
              <Button
                tone="quiet"
                aria-label={`Forget ${saved.name}`}
                onClick={() => keep(views.filter((_, i) => i !== k))}
              >
                Forget
              </Button>
            </div>
          ))}
          <div className="mt-1 flex gap-2 border-t border-rule pt-2">
            <Button onClick={() => keep([...views, presentView(view, freeName(views))])}>
              Keep this view
            </Button>
            <Button onClick={() => void save()}>Save a picture</Button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
