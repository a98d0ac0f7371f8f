import { memo } from "react";
import type { ClauseEntry, ValueSpec } from "../../api/client";
import { useLive, useOpened, useView } from "../../state/opened";
import { governed, governs } from "../governed";
import { ArrangementValue } from "./ArrangementValue";
import { ChoiceValue } from "./ChoiceValue";
import { FileValue } from "./FileValue";
import { NumberValue } from "./NumberValue";
import { type Coordinate, PlacesValue } from "./PlacesValue";
import { PlaceValue } from "./PlaceValue";
import { type Profiles, ProfilesValue } from "./ProfilesValue";
import { SectionValue } from "./SectionValue";
import { OffsetsValue, SheetValue } from "./SheetValue";
import { TextValue } from "./TextValue";
import { valueIn } from "./values";

interface Props {
  entry: ClauseEntry;
  spec: ValueSpec;
  /** What a formula comes to. */
  resolved: number | undefined;
  /** Whether the clause fails because of it. */
  wrong: boolean;
}

/** A live value in a sentence; what it governs is lit while one points at it, and it is lit with what is picked of that. */
export const Value = memo(function Value(props: Props) {
  const { live, viewing } = useOpened();
  const { entry, spec } = props;
  const { point } = viewing.getState();
  const picked = useView((s) => (s.selected.size === 1 ? [...s.selected][0]! : null));
  const governing = useLive((s) => picked !== null && governs(s, entry, spec, picked));
  const light = () => point(governed(live.getState(), entry, spec), `${entry.id}/${spec.name}`);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: what lies within is pointed at, or has the focus
    <span
      className={governing ? "rounded-sm bg-plum-pale" : undefined}
      data-governs={governing || undefined}
      onPointerEnter={light}
      onPointerLeave={() => point()}
      onFocus={light}
      onBlur={() => point()}
    >
      <Own {...props} />
    </span>
  );
});

/** The value, by the kind its clause type says it has. */
function Own({ entry, spec, resolved, wrong }: Props) {
  const { channel } = useOpened();
  const dimensions = useLive((s) => s.statement?.dimensions);
  const value = valueIn(entry, spec);
  const set = (v: unknown) => ({ op: "set" as const, clause: entry.id, name: spec.name, value: v });
  const commit = (v: unknown) => void channel.edit(set(v));
  switch (spec.kind) {
    case "choice":
      return <ChoiceValue kind={entry.kind} spec={spec} value={String(value)} onChoose={commit} />;
    case "section":
      return <SectionValue spec={spec} value={String(value)} wrong={wrong} onChoose={commit} />;
    case "text":
      return <TextValue spec={spec} value={String(value)} wrong={wrong} onCommit={commit} />;
    case "profiles":
      return (
        <ProfilesValue
          spec={spec}
          clause={entry.id}
          value={value as Profiles}
          wrong={wrong}
          onCommit={commit}
        />
      );
    case "point":
      return <PlaceValue spec={spec} value={value as number[]} onCommit={commit} />;
    case "places":
      return (
        <PlacesValue
          spec={spec}
          clause={entry.id}
          value={value as Coordinate[][]}
          wrong={wrong}
          onCommit={commit}
        />
      );
    case "file":
      return <FileValue spec={spec} value={value as string[]} wrong={wrong} onCommit={commit} />;
    case "curves":
    case "cage":
    case "marks":
      return <SheetValue spec={spec} clause={entry.id} value={value as unknown[]} wrong={wrong} />;
    case "arrangement":
      return <ArrangementValue spec={spec} value={value as unknown[][]} />;
    case "offsets":
      return (
        <OffsetsValue
          spec={spec}
          clause={entry.id}
          value={value as number[][]}
          wrong={wrong}
          onCommit={commit}
        />
      );
    default: {
      // Dragging a value that is the name of a dimension drags the dimension.
      const named = typeof value === "string" ? dimensions?.find((d) => d.name === value) : undefined;
      const own = named && typeof named.value === "number" && named.unit === (spec.unit ?? "");
      const edit = (v: number) =>
        own && named ? { op: "dimension" as const, dimension: { ...named, value: v } } : set(v);
      return (
        <NumberValue
          name={spec.name}
          label={spec.label}
          hint={own ? `drags the dimension “${value}”` : spec.hint}
          unit={spec.unit || (value === 1 ? spec.one : spec.many) || ""}
          value={value as number | string}
          resolved={resolved}
          step={spec.step ?? 1}
          least={spec.least ?? Number.NEGATIVE_INFINITY}
          most={spec.most ?? Number.POSITIVE_INFINITY}
          whole={spec.kind === "count"}
          wrong={wrong}
          draggable={typeof value === "number" || Boolean(own)}
          onPreview={(v) => channel.preview(edit(v))}
          onCommit={(v) =>
            channel.edit(typeof v === "number" && typeof value === "string" ? edit(v) : set(v))
          }
          onCancel={() => channel.settle()}
        />
      );
    }
  }
}
