import { Popover } from "radix-ui";
import type { ValueSpec } from "../../api/client";
import { feetText, inFeet, useLengths } from "../../ui/lengths";
import { plain } from "../../ui/text";
import { CoordinateField } from "./CoordinateField";

type Coordinate = number | string;

/** A place in a sentence, with its exact coordinates behind it and a handle in the view. */
export function PlaceValue({
  spec,
  value,
  onCommit,
}: {
  spec: ValueSpec;
  value: Coordinate[];
  onCommit: (v: Coordinate[]) => void;
}) {
  const isFeet = inFeet(
    "m",
    useLengths((s) => s.system),
  );
  const told = (x: Coordinate) => {
    if (typeof x === "string") return x;
    return isFeet ? feetText(x, "m") : plain(x);
  };
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          className="live"
          data-value={spec.name}
          title={`${spec.label} · drag its handle in the view`}
        >
          ({value.map(told).join(", ")}){!isFeet && "\u202fm"}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="floating flex items-baseline gap-2 p-3"
          sideOffset={4}
          collisionPadding={8}
        >
          {["x", "y", "z"].map((axis, k) => (
            <CoordinateField
              key={axis}
              label={`${spec.label} ${axis}`}
              short={axis}
              value={value[k] ?? 0}
              onCommit={(v) => onCommit(value.map((old, i) => (i === k ? v : old)))}
            />
          ))}
          {!isFeet && <span className="text-soft">m</span>}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
