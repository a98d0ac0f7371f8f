import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { answered, api, type ValueSpec } from "../../api/client";

const searched = (text: string) => ({
  queryKey: ["sections", text],
  queryFn: () => answered(api.GET("/api/sections", { params: { query: { text } } })),
  staleTime: Number.POSITIVE_INFINITY,
});

/** A section: found by typing, be it one that is commonly made or of a size of one's own. */
export function SectionValue({
  spec,
  value,
  wrong,
  onChoose,
}: {
  spec: ValueSpec;
  value: string;
  wrong: boolean;
  onChoose: (name: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const queries = useQueryClient();
  const { data, error } = useQuery({
    ...searched(text),
    enabled: open,
    placeholderData: keepPreviousData,
  });
  const found = data?.sections ?? [];
  const choose = (name: string) => {
    setOpen(false);
    setText("");
    if (name !== value) onChoose(name);
  };
  /** What is listed may still be of what was typed before. */
  const chooseFirst = async () => {
    const first = (await queries.fetchQuery(searched(text))).sections[0];
    if (first) choose(first.name);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button
          type="button"
          className={`live ${wrong ? "!text-brick" : ""}`}
          data-value={spec.name}
          title={spec.label}
        >
          {value}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="floating w-[26rem] p-3" align="start" sideOffset={4} collisionPadding={8}>
          <input
            aria-label={`Find a section for: ${spec.label}`}
            placeholder="Find or type: CHS 88.9, Timber 70 × 180, Box 300 × 200 × 12"
            className="mb-2 w-full rounded-sm border border-rule bg-field px-2 py-1"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && void chooseFirst()}
          />
          <div className="flex justify-between px-2 text-xs text-soft">
            <span>
              {(data?.count ?? 0).toLocaleString("en-GB")} {data?.count === 1 ? "section" : "sections"}
              {data && data.count > found.length ? `, the first ${found.length}` : ""}
            </span>
            <span>area · inertia y · mass</span>
          </div>
          <div className="max-h-72 overflow-auto" role="listbox" aria-label="Sections" tabIndex={-1}>
            {found.map((s) => (
              <button
                key={s.name}
                type="button"
                role="option"
                aria-selected={s.name === value}
                className={`entry w-full justify-between !px-2 text-left ${s.name === value ? "text-plum" : ""}`}
                onClick={() => choose(s.name)}
              >
                <span>
                  {s.name}
                  {!s.listed && <span className="text-xs text-soft"> · your own size</span>}
                </span>
                <span className="text-xs text-soft">
                  {s.area_cm2.toFixed(1)} cm² · {s.inertia_y_cm4.toFixed(0)} cm⁴ · {s.mass_kg_m.toFixed(1)}{" "}
                  kg/m
                </span>
              </button>
            ))}
            {data && !found.length && (
              <p className="px-2 py-1 text-[13px] text-soft">
                No section is named like that. A size of your own reads “CHS 90 × 4”, “RHS 210 × 120 × 8
                cold”, “Box 300 × 200 × 12”, “Flat 100 × 10”, “Round 30” or “Timber 70 × 180”; a grade may
                follow, as in “CHS 88.9 × 4 S235” or “GL28h 120 × 360”.
              </p>
            )}
            {error && <p className="px-2 py-1 text-[13px] text-brick">{error.message}</p>}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
