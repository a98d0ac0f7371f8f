import { Popover } from "radix-ui";
import { useMemo } from "react";
import { allLayers, measures } from "../api/catalogue";
import { useLive, useOpened, useView } from "../state/opened";
import type { ColourBy, Look } from "../state/view";
import { Button } from "../ui/Button";
import { ChoiceEntries, Menu } from "../ui/Menu";
import { AxesFields } from "./AxesFields";
import { canSpread, type Spread } from "./apart";
import { Views } from "./Views";
import type { Viewport } from "./viewport";

const LOOKS: { key: Look; title: string; pressed: string }[] = [
  { key: "oblique", title: "Oblique", pressed: "O" },
  { key: "plan", title: "Plan", pressed: "P" },
  { key: "x", title: "Along x", pressed: "X" },
  { key: "y", title: "Along y", pressed: "Y" },
];
/** Keys that turn layers on and off. */
const KEYS: Record<string, string> = { labels: "L" };
/** What the view can be coloured by: figures of the catalogue, and what tells kinds apart. */
const colours = (): { key: ColourBy; title: string }[] => [
  { key: "none", title: "material" },
  ...measures(),
  { key: "mark", title: "marks of edges and cells" },
  { key: "side", title: "outside and inside" },
];

/** What is shown and from where, in words along the view's foot. */
export function ViewBar({ view, narrow }: { view: Viewport; narrow: boolean }) {
  const { shown, toggle, look, set, colourBy } = useView();
  return (
    <div
      className={`flex min-h-8 items-center gap-x-0.5 whitespace-nowrap border-t border-rule bg-leaf px-2 text-[13px] flex-wrap ${narrow ? "py-1" : ""}`}
    >
      {narrow && (
        <Menu
          trigger={
            <button type="button" className="live !font-normal" data-value="look">
              {LOOKS.find((l) => l.key === look)?.title}
            </button>
          }
        >
          <ChoiceEntries value={look} choices={LOOKS} onChoose={(key) => set({ look: key as Look })} />
        </Menu>
      )}
      {(narrow ? [] : LOOKS).map((l) => (
        <button
          key={l.key}
          type="button"
          aria-pressed={look === l.key}
          title={`Key: ${l.pressed}`}
          className={`rounded-sm px-1.5 py-0.5 ${look === l.key ? "bg-plum-pale text-plum" : "hover:text-plum"}`}
          onClick={() => (look === l.key ? view.look(l.key) : set({ look: l.key }))}
        >
          {l.title}
        </button>
      ))}
      <button type="button" className="rounded-sm px-1.5 py-0.5 hover:text-plum" onClick={() => view.fit()}>
        Fit all
      </button>
      <span className="mx-1 h-4 w-px bg-rule" />
      <Popover.Root>
        <Popover.Trigger asChild>
          <button type="button" className="live !font-normal">
            Shown
          </button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content className="floating px-3 py-2" side="top" sideOffset={6} collisionPadding={8}>
            {allLayers().map((layer) => (
              <label key={layer.name} className="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  className="accent-plum"
                  checked={shown[layer.name] ?? false}
                  onChange={() => toggle(layer.name)}
                />
                {layer.title}
                {KEYS[layer.name] && <kbd className="ml-auto text-xs text-soft">{KEYS[layer.name]}</kbd>}
              </label>
            ))}
            <AxesFields />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <Menu
        trigger={
          <button
            type="button"
            className="live !font-normal ml-1.5"
            data-value="colour-by"
            title="Coloured by"
          >
            {colours().find((c) => c.key === colourBy)?.title}
          </button>
        }
      >
        <ChoiceEntries value={colourBy} choices={colours()} onChoose={(colourBy) => set({ colourBy })} />
      </Menu>
      {!narrow && <Views />}
      {!narrow && <ShownApart />}
      {!narrow && <CutAndMeasure />}
    </div>
  );
}

/** How far things are shown apart from each other, where there are any that can be. */
function ShownApart() {
  const { live } = useOpened();
  const outcomes = useLive((s) => s.outcomes);
  const { spread, set } = useView();
  // biome-ignore lint/correctness/useExhaustiveDependencies: outcomes are what the geometry hangs on
  const can = useMemo(() => canSpread(live.getState()), [outcomes]);
  if (!can.some) return null;
  const choices = [
    { key: "", title: "put together" },
    { key: "thing", title: "apart one by one" },
    ...(can.groups ? [{ key: "group", title: "apart in groups" }] : []),
  ];
  return (
    <>
      <span className="mx-1 h-4 w-px bg-rule" />
      <Menu
        trigger={
          <button type="button" className="live !font-normal" data-value="shown-apart">
            {choices.find((c) => c.key === (spread?.by ?? ""))?.title}
          </button>
        }
      >
        <ChoiceEntries
          value={spread?.by ?? ""}
          choices={choices}
          onChoose={(by) =>
            set({ spread: by ? { by: by as Spread["by"], share: spread?.share || 0.5 } : null })
          }
        />
      </Menu>
      {spread && (
        <input
          type="range"
          aria-label="How far apart"
          className="w-20 accent-plum"
          min={0}
          max={1}
          step={0.01}
          value={spread.share}
          onChange={(e) => set({ spread: { ...spread, share: Number(e.target.value) } })}
        />
      )}
    </>
  );
}

/** The section cut, whose plane is dragged in the view, and the measuring of distances. */
function CutAndMeasure() {
  const { cut, set, tool } = useView();
  return (
    <>
      <span className="mx-1 h-4 w-px bg-rule" />
      <Menu
        trigger={
          <button type="button" className="live !font-normal" data-value="section-cut">
            {cut ? `cut across ${cut.axis}` : "no cut"}
          </button>
        }
      >
        <ChoiceEntries
          value={cut?.axis ?? ""}
          choices={[
            { key: "", title: "no cut" },
            ...["x", "y", "z"].map((a) => ({ key: a, title: `cut across ${a}` })),
          ]}
          onChoose={(axis) =>
            set({ cut: axis ? { axis: axis as "x" | "y" | "z", share: cut?.share ?? 0.5 } : null })
          }
        />
      </Menu>
      <Button
        tone="quiet"
        aria-pressed={tool === "measure"}
        title="Key: M"
        className={`!py-0.5 ${tool === "measure" ? "bg-plum-pale text-plum" : ""}`}
        onClick={() => set({ tool: tool === "measure" ? "pick" : "measure" })}
      >
        Measure
      </Button>
    </>
  );
}
