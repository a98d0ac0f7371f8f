import { Popover } from "radix-ui";
import { useState } from "react";
import { useLive, useMargin, useOpened } from "../state/opened";
import { Button } from "../ui/Button";
import { Menu, MenuEntry } from "../ui/Menu";
import { ProgressBar } from "../ui/ProgressBar";
import { saveAs, saveFrom } from "../ui/saving";
import { freeName, goToView, presentView, type SavedView } from "./savedViews";
import { canFilm, filmTurn } from "./turning";

/** Pixels across a picture that is saved. */
const WIDE = 2400;

/** Views one comes back to, and a picture of the present one. */
export function Views() {
  const opened = useOpened();
  const { project, viewport: view } = opened;
  const name = useLive((s) => s.statement?.name) ?? "model";
  const views = useMargin((m) => m.views);
  const keep = (next: SavedView[]) => void opened.margin.note({ views: next });
  const rename = (at: number, typed: string) => {
    const name = typed.trim().slice(0, 60);
    if (name && !views.some((v) => v.name === name))
      keep(views.map((v, k) => (k === at ? { ...v, name } : v)));
  };
  const [filming, setFilming] = useState<number | null>(null);
  const savePicture = async () => {
    const picture = await view.photograph(WIDE);
    if (picture) saveAs(picture, `${name}.png`);
  };
  const saveLines = () => saveAs(new Blob([view.vectors()], { type: "image/svg+xml" }), `${name}.svg`);
  const saveTurn = async () => {
    setFilming(0);
    const film = await filmTurn(view, setFilming).finally(() => setFilming(null));
    saveAs(film, `${name}.${film.type.includes("mp4") ? "mp4" : "webm"}`);
  };
  return (
    <Popover.Root>
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
              <Button aria-label={`See ${saved.name}`} onClick={() => goToView(opened, saved)}>
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
            <Button onClick={() => keep([...views, presentView(opened, freeName(views))])}>
              Keep this view
            </Button>
            <Menu trigger={<Button disabled={filming !== null}>Take along</Button>}>
              <MenuEntry onSelect={() => void savePicture()}>A picture, PNG</MenuEntry>
              <MenuEntry onSelect={saveLines}>Its lines, SVG</MenuEntry>
              {canFilm() && !view.isParallel && (
                <MenuEntry onSelect={() => void saveTurn()}>One turn, as a film</MenuEntry>
              )}
              <MenuEntry onSelect={() => saveFrom(`/api/projects/${project}/model.glb`, `${name}.glb`)}>
                The model, glTF
              </MenuEntry>
            </Menu>
          </div>
          {filming !== null && (
            <p className="mt-2 text-[13px] text-soft">
              Turning …
              <ProgressBar share={filming} className="w-full" />
            </p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
