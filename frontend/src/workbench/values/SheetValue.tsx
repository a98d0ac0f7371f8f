import { useNavigate, useParams } from "react-router-dom";
import type { ValueSpec } from "../../api/client";
import { useOpened } from "../../state/opened";

const count = (n: number, one: string, many: string) => `${n} ${n === 1 ? one : many}`;

const WORDS: Partial<Record<ValueSpec["kind"], (value: unknown[]) => string>> = {
  curves: (v) => count(v.length, "curve", "curves"),
  cage: (v) => count((v[1] as unknown[] | undefined)?.length ?? 0, "face", "faces"),
  marks: (v) => count(v.length, "mark", "marks"),
};

/** A value that is drawn: opens it on the Trace screen. */
export function SheetValue({
  spec,
  clause,
  value,
  wrong,
}: {
  spec: ValueSpec;
  clause: string;
  value: unknown[];
  wrong: boolean;
}) {
  const { viewing } = useOpened();
  const navigate = useNavigate();
  const { project = "" } = useParams();
  return (
    <button
      type="button"
      className={`live ${wrong ? "!text-brick" : ""}`}
      data-value={spec.name}
      title={`${spec.hint}\nClick to open it on the Trace screen`}
      onClick={() => {
        viewing.getState().set({ active: clause });
        navigate(`/p/${project}/trace`);
      }}
    >
      {WORDS[spec.kind]?.(value) ?? "drawn"}
    </button>
  );
}

/** Points of a control box that were moved; they are dragged in the view. */
export function OffsetsValue({
  spec,
  clause,
  value,
  wrong,
  onCommit,
}: {
  spec: ValueSpec;
  clause: string;
  value: number[][];
  wrong: boolean;
  onCommit: (v: number[][] | null) => void;
}) {
  const { viewing } = useOpened();
  const moved = value.filter((d) => d.some((c) => c !== 0)).length;
  return (
    <span className="whitespace-nowrap">
      <button
        type="button"
        className={`live ${wrong ? "!text-brick" : ""}`}
        data-value={spec.name}
        title={spec.hint}
        onClick={() => viewing.getState().set({ active: clause })}
      >
        {moved === 0 ? "none" : moved}
      </button>
      {moved > 0 && (
        <button
          type="button"
          className="ml-1 font-sans text-[13px] text-soft underline hover:text-plum"
          onClick={() => onCommit(null)}
        >
          put back
        </button>
      )}
    </span>
  );
}
