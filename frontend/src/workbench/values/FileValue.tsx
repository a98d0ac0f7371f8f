import { useRef, useState } from "react";
import { sentence, type ValueSpec } from "../../api/client";
import { useOpened } from "../../state/opened";

const LARGEST_FILE = 100_000_000;

/** A stored file: choosing one keeps it with the project and names it in the clause. */
export function FileValue({
  spec,
  value,
  wrong,
  onCommit,
}: {
  spec: ValueSpec;
  value: string[];
  wrong: boolean;
  onCommit: (v: string[]) => void;
}) {
  const { live } = useOpened();
  const field = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const choose = async (file: File | undefined) => {
    if (!file) return;
    setBusy(true);
    try {
      if (file.size > LARGEST_FILE)
        throw new Error(`“${file.name}” has ${Math.round(file.size / 1e6)} MB; at most 100 MB are read.`);
      const body = new FormData();
      body.append("file", file);
      const answer = await fetch("/api/files", { method: "POST", body });
      const stored = await answer.json();
      if (!answer.ok) throw new Error(sentence(stored));
      onCommit([stored.digest, stored.name]);
    } catch (error) {
      live.setState({ problem: error instanceof Error ? error.message : String(error) });
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <button
        type="button"
        className={`live max-w-56 truncate align-bottom ${wrong ? "!text-brick" : ""}`}
        data-value={spec.name}
        title={spec.hint}
        onClick={() => field.current?.click()}
      >
        {busy ? "reading …" : value.length > 1 ? value[1] : "no file yet"}
      </button>
      <input
        ref={field}
        type="file"
        hidden
        data-file={spec.name}
        accept={spec.accepts?.map((e) => `.${e}`).join(",")}
        onChange={(e) => {
          void choose(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
    </>
  );
}
