import { allLayers } from "../api/catalogue";
import type { Edit, Remedy } from "../api/client";
import { shownAs } from "../live/inputs";
import { type Opened, useOpened, useView } from "../state/opened";
import { type Item, item } from "../state/view";
import { useLengths } from "../ui/lengths";
import { saidText } from "../ui/text";
import { freshId } from "./freshId";
import { boxOfModel } from "./placing";
import type { Remark } from "./remarks";

const TONES = { brick: "bg-brick-pale text-brick", amber: "bg-amber-pale text-amber", soft: "text-soft" };

/** What is told of a clause, with its place and what would mend it. */
export function RemarkLine({ remark, onShow }: { remark: Remark; onShow?: () => void }) {
  const opened = useOpened();
  const show = useView((s) => s.show);
  const items = itemsOf(opened, remark);
  useLengths(); // written anew when lengths are read otherwise
  return (
    <div
      role={remark.tone === "brick" ? "alert" : "note"}
      className={`mt-1 rounded-sm px-2 py-1 text-[13px] leading-snug ${TONES[remark.tone]}`}
    >
      {saidText(remark.text, remark.lengths)}{" "}
      {(remark.at || items.length > 0) && (
        <button
          type="button"
          className="underline"
          onClick={() => {
            onShow?.();
            show(items, remark.at);
          }}
        >
          Show me
        </button>
      )}
      {remark.remedies.map((r) => (
        <button
          key={r.title}
          type="button"
          className="mt-0.5 mr-3 block underline"
          onClick={() => void applyRemedy(opened, r, remark.clause)}
        >
          {saidText(r.title, r.lengths)}
        </button>
      ))}
    </div>
  );
}

function itemsOf({ live }: Opened, remark: Remark): Item[] {
  if (!allLayers().some((layer) => layer.thing === remark.of)) return [];
  const of = shownAs(live.getState().outcomes, remark.made);
  return remark.which.map((i) => item(of, remark.of, i));
}

/** Makes the edits of a remedy: a clause before the one that warns or below it, another place for one, or other values; where
 * there are none, works it out once more. */
async function applyRemedy({ live, channel, viewport }: Opened, remedy: Remedy, warns: string) {
  const clauses = live.getState().statement?.clauses ?? [];
  if (remedy.kind) {
    const clause = { id: freshId(remedy.kind, clauses), kind: remedy.kind, values: remedy.values };
    const at = clauses.findIndex((c) => c.id === warns) + (remedy.below ? 1 : 0);
    await channel.edit({ op: "add", at, clause, beside: boxOfModel(viewport) } as Edit);
    return;
  }
  if (remedy.moved) {
    const to = clauses.findIndex((c) => c.id === warns);
    await channel.edit({ op: "move", clause: remedy.moved, to } as Edit);
    return;
  }
  for (const [input, source] of Object.entries(remedy.on))
    await channel.edit({ op: "on", clause: remedy.clause, input, source });
  const values = Object.entries(remedy.values);
  if (!values.length && !Object.keys(remedy.on).length) channel.restart(remedy.clause);
  for (const [name, value] of values) await channel.edit({ op: "set", clause: remedy.clause, name, value });
}
