import { useState } from "react";
import { catalogue } from "../api/catalogue";
import type { Dimension } from "../api/client";
import { useLive, useOpened } from "../state/opened";
import { Button } from "../ui/Button";
import { typedLength } from "../ui/lengths";
import { NumberValue } from "./values/NumberValue";

/** Named dimensions, as the statement's opening sentence. */
export function Dimensions() {
  const { channel } = useOpened();
  const dimensions = useLive((s) => s.statement?.dimensions) ?? [];
  const values = useLive((s) => s.dimensions);
  const [adding, setAdding] = useState(false);
  const commit = (dimension: Dimension) => channel.edit({ op: "dimension", dimension });
  return (
    <div className="border-b border-rule pb-2 pl-3 font-serif text-[15.5px] leading-[1.6]">
      {dimensions.length > 0 && <span>With </span>}
      {dimensions.map((d, i) => {
        const value = values.find((v) => v.name === d.name);
        return (
          <span key={d.name} className="group">
            {i > 0 && (i === dimensions.length - 1 ? " and " : ", ")}
            <b>{d.name}</b> ={" "}
            <NumberValue
              name={d.name}
              label={`Dimension ${d.name}`}
              hint={`write ${d.name} in any value`}
              unit={d.unit ?? "m"}
              value={d.value}
              resolved={typeof d.value === "string" ? (value?.value ?? undefined) : undefined}
              step={catalogue().units.find((u) => u.name === (d.unit ?? "m"))?.step ?? 1}
              least={Number.NEGATIVE_INFINITY}
              most={Number.POSITIVE_INFINITY}
              wrong={Boolean(value?.error)}
              draggable={typeof d.value === "number"}
              onPreview={(v) => channel.preview({ op: "dimension", dimension: { ...d, value: v } })}
              onCommit={(v) => commit({ ...d, value: v })}
              onCancel={() => channel.settle()}
            />
            <button
              type="button"
              className="sr-only font-sans text-xs text-soft group-hover:not-sr-only group-hover:!px-1 focus:not-sr-only hover:text-brick"
              aria-label={`Remove dimension ${d.name}`}
              onClick={() => void channel.edit({ op: "undimension", name: d.name })}
            >
              remove
            </button>
          </span>
        );
      })}
      {dimensions.length > 0 && ". "}
      {!adding && (
        <Button tone="quiet" className="font-sans !text-[13px] !text-soft" onClick={() => setAdding(true)}>
          {dimensions.length ? "Name another" : "Name a dimension"}
        </Button>
      )}
      {adding && (
        <NewDimension
          taken={dimensions.map((d) => d.name)}
          onDone={(d) => {
            setAdding(false);
            if (d) void commit(d);
          }}
        />
      )}
      {values
        .filter((v) => v.error)
        .map((v) => (
          <p
            key={v.name}
            role="alert"
            className="mt-1 rounded-sm bg-brick-pale px-2 py-1 font-sans text-[13px] text-brick"
          >
            {v.error}
          </p>
        ))}
    </div>
  );
}

function NewDimension({ taken, onDone }: { taken: string[]; onDone: (d: Dimension | null) => void }) {
  const [name, setName] = useState("");
  const [value, setValue] = useState("1");
  const [unit, setUnit] = useState<NonNullable<Dimension["unit"]>>("m");
  const wrong = !/^[^\W\d]\w{0,39}$/u.test(name)
    ? "A name is letters, digits and _, beginning with a letter."
    : taken.includes(name)
      ? `There is a dimension “${name}” already.`
      : "";
  const number = typedLength(value, unit) ?? Number(value);
  return (
    <form
      className="mt-1 flex flex-wrap items-center gap-1 font-sans text-sm"
      onSubmit={(e) => {
        e.preventDefault();
        if (!wrong) onDone({ name, value: Number.isNaN(number) ? value : number, unit });
      }}
      onKeyDown={(e) => e.key === "Escape" && onDone(null)}
    >
      <input
        aria-label="Name"
        placeholder="name"
        className="w-24 rounded-sm border border-rule bg-field px-1"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      =
      <input
        aria-label="Value"
        className="w-20 rounded-sm border border-rule bg-field px-1"
        value={value}
        onChange={(e) => setValue(e.target.value)}
      />
      <select
        aria-label="Unit"
        className="rounded-sm border border-rule bg-field"
        value={unit}
        onChange={(e) => setUnit(e.target.value as typeof unit)}
      >
        {catalogue().units.map((u) => (
          <option key={u.name} value={u.name}>
            {u.name || "no unit"}
          </option>
        ))}
      </select>
      <Button type="submit" disabled={Boolean(wrong)}>
        Add
      </Button>
      <Button tone="quiet" onClick={() => onDone(null)}>
        Leave
      </Button>
      {name && wrong && <span className="w-full text-xs text-brick">{wrong}</span>}
    </form>
  );
}
