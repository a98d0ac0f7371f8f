import type { ValueSpec } from "../../api/client";
import { ChoiceEntries, Menu, PicturedEntries } from "../../ui/Menu";

/** A choice in a sentence. */
export function ChoiceValue({
  kind,
  spec,
  value,
  onChoose,
}: {
  kind: string;
  spec: ValueSpec;
  value: string;
  onChoose: (key: string) => void;
}) {
  const choices = spec.choices ?? [];
  const title = choices.find((c) => c.key === value)?.title ?? value;
  return (
    <Menu
      trigger={
        <button
          type="button"
          className="live !whitespace-normal text-left"
          data-value={spec.name}
          title={`${spec.label}${spec.hint ? ` · ${spec.hint}` : ""}`}
        >
          {title}
        </button>
      }
    >
      {spec.pictured ? (
        <PicturedEntries
          value={value}
          onChoose={onChoose}
          choices={choices}
          pictureOf={(key) => `/api/guide/${kind}/${spec.name}/${key}.png`}
        />
      ) : (
        <ChoiceEntries value={value} onChoose={onChoose} choices={choices} />
      )}
    </Menu>
  );
}
