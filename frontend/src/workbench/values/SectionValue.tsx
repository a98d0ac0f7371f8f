import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useMemo, useState } from "react";
import { answered, api, type ValueSpec } from "../../api/client";

const matches = (name: string, text: string) =>
  text
    .toLowerCase()
    .replaceAll("×", " ")
    .replaceAll("x", " ")
    .split(/\s+/)
    .every((word) => name.toLowerCase().includes(word));

/** A section of the catalogue: found by typing, or a timber size of one's own. */
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
  const { data = [] } = useQuery({
    queryKey: ["sections"],
    queryFn: () => answered(api.GET("/api/sections")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const found = useMemo(() => data.filter((s) => matches(s.name, text)), [data, text]);
  const choose = (name: string) => {
    setOpen(false);
    setText("");
    if (name !== value) onChoose(name);
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
            placeholder="Find: CHS 88.9, RHS 100, or type Timber 70 × 180"
            className="mb-2 w-full rounded-sm border border-rule bg-white px-2 py-1"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && choose(found[0]?.name ?? text)}
          />
          <div className="flex justify-between px-2 text-xs text-soft">
            <span>{found.length} sections</span>
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
                <span>{s.name}</span>
                <span className="text-xs text-soft">
                  {s.area_cm2.toFixed(1)} cm² · {s.inertia_y_cm4.toFixed(0)} cm⁴ · {s.mass_kg_m.toFixed(1)}{" "}
                  kg/m
                </span>
              </button>
            ))}
            {!found.length && (
              <button type="button" className="entry w-full !px-2 text-left" onClick={() => choose(text)}>
                Use “{text}”
              </button>
            )}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
