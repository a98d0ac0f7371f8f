import { useEffect, useRef } from "react";
import { useStore } from "zustand";
import { catalogue } from "../api/catalogue";
import type { PackMessage } from "../api/client";
import { useLive, useOpened } from "../state/opened";
import { Button } from "../ui/Button";
import { ProgressBar } from "../ui/ProgressBar";
import { saidText } from "../ui/text";
import { canWrite } from "./groups";

const sizeText = (bytes: number) =>
  bytes > 1e6 ? `${(bytes / 1e6).toFixed(1)}\u202fMB` : `${Math.max(1, Math.round(bytes / 1e3))}\u202fkB`;

interface Check {
  check: string;
  passed: boolean;
  worst: number;
  unit: string;
  where: string;
}

/** Choose the files, see what guards them, download the pack. */
export function DeliverScreen() {
  const { project, delivery } = useOpened();
  const { turned, writing, pack, madeAt, problem } = useStore(delivery.state);
  const outcomes = useLive((s) => s.outcomes);
  const head = useLive((s) => s.head);
  const progress = useLive((s) => s.progress);
  const report = useRef<HTMLDivElement>(null);
  const made = Object.values(outcomes);
  const all = catalogue().pack_groups.map((g) => ({ ...g, able: canWrite(g, made) }));
  const wanted = (g: (typeof all)[number]) => g.able && g.on_request === turned.has(g.key);
  const failed = made.filter((o) => o.status === "failed");
  const files = all.filter(wanted).map((g) => g.key);
  // What came of it stands at the top.
  useEffect(() => {
    if (pack) report.current?.scrollTo({ top: 0 });
  }, [pack]);
  return (
    <main className="mx-auto grid w-full max-w-5xl grid-cols-[22rem_minmax(0,1fr)] gap-10 overflow-hidden px-8">
      <section className="flex min-h-0 flex-col pt-6">
        <h2 className="mb-1 font-serif text-2xl">Deliver</h2>
        <p className="mb-3 text-soft">
          The statement, its report and the checks are always part of the pack.
        </p>
        <div className="min-h-0 overflow-y-auto">
          {all.map((g) => (
            <label
              key={g.key}
              className={`flex items-baseline gap-2.5 border-b border-rule py-1.5 ${g.able ? "" : "opacity-50"}`}
            >
              <input
                type="checkbox"
                className="accent-plum"
                disabled={!g.able}
                checked={wanted(g)}
                onChange={() => delivery.toggle(g.key)}
              />
              <span>
                {g.title}
                <span className="block text-[13px] text-soft">
                  {g.able ? g.about : "nothing to write yet"}
                </span>
              </span>
            </label>
          ))}
          {failed.length > 0 && (
            <p className="mt-3 rounded-sm bg-amber-pale px-2 py-1 text-[13px] text-amber">
              {failed.length === 1 ? "One clause" : `${failed.length} clauses`} could not be made; the pack
              holds what the others made.
            </p>
          )}
        </div>
        <div className="border-t border-rule py-4">
          <Button
            tone="live"
            className="!px-4 !py-1.5"
            disabled={writing}
            onClick={() => void delivery.write(files, head)}
          >
            {writing ? "Writing …" : "Write the pack"}
          </Button>
          {writing && (
            <p className="mt-2 flex items-center gap-2 text-[13px] text-soft">
              <ProgressBar share={progress?.share ?? 0} />
              {progress?.what ?? ""}
            </p>
          )}
          {problem && <p className="mt-2 rounded-sm bg-brick-pale px-2 py-1 text-brick">{problem}</p>}
        </div>
      </section>
      <div className="min-h-0 overflow-y-auto py-6" ref={report}>
        {pack ? <PackReport project={project} pack={pack} stale={madeAt !== head} /> : <Guards />}
      </div>
    </main>
  );
}

function Guards() {
  return (
    <section className="pt-2 font-serif text-[16.5px] leading-relaxed text-soft">
      <h3 className="mb-1 text-ink">What guards a pack</h3>
      <p>
        Once written, the files are read back and checked from what stands in them alone: member lengths
        against node coordinates, every outline closed, nothing overlapping on a sheet, each panel's sides
        against its edges in space less the joint, labels unique and the same everywhere. Ribs are put
        together again as solids; where they do not go together the pack is held back.
      </p>
    </section>
  );
}

/** What is designed but cannot be made as it is, by reason. */
function NotMade({ missing }: { missing: PackMessage["not_made"] }) {
  if (!missing.length) return null;
  const reasons = new Map<string, string[]>();
  for (const { what, label, why, lengths } of missing) {
    const told = saidText(why, lengths);
    reasons.set(told, [...(reasons.get(told) ?? []), `${what} ${label}`]);
  }
  return (
    <div role="note" className="mb-3 rounded-sm bg-amber-pale px-2 py-1 text-amber">
      {[...reasons].map(([why, things]) => (
        <p key={why}>
          {things.length} not made, {why}: {things.slice(0, 8).join(", ")}
          {things.length > 8 ? " …" : ""}
        </p>
      ))}
    </div>
  );
}

function PackReport({ project, pack, stale }: { project: string; pack: PackMessage; stale: boolean }) {
  const checks = pack.checks as unknown as Check[];
  const wrong = checks.filter((c) => !c.passed).length;
  const total = pack.files.reduce((n, f) => n + f.size, 0);
  return (
    <section data-testid="pack">
      <div className="mb-4 flex items-center gap-4">
        <a
          href={`/api/projects/${project}/pack/${pack.id}.zip`}
          download
          className="rounded-sm border border-plum bg-plum px-4 py-1.5 text-leaf hover:bg-ink"
        >
          Download the pack
        </a>
        <span className={wrong ? "text-brick" : "text-moss"}>
          {wrong ? `${wrong} of ${checks.length} checks failed` : `All ${checks.length} checks passed`} ·{" "}
          {pack.files.length} files, {sizeText(total)}
        </span>
      </div>
      {pack.held_back && (
        <p role="alert" className="mb-3 rounded-sm bg-brick-pale px-2 py-1 text-brick">
          Held back: the ribs do not go together as they would be cut, so that only the statement, its report
          and the checks were written. What fails below has to be put right first.
        </p>
      )}
      <NotMade missing={pack.not_made} />
      {stale && (
        <p className="mb-3 rounded-sm bg-amber-pale px-2 py-1 text-[13px] text-amber">
          The statement has changed since this pack was written.
        </p>
      )}
      <h3 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Checks</h3>
      <table className="mb-5 w-full text-[13px]">
        <tbody>
          {checks.map((c) => (
            <tr key={c.check} className="border-b border-rule align-baseline">
              <td className={`w-16 py-1 ${c.passed ? "text-moss" : "text-brick"}`}>
                {c.passed ? "passed" : "failed"}
              </td>
              <td className="py-1">{c.check}</td>
              <td className="py-1 text-right whitespace-nowrap text-soft">
                {c.unit && `worst ${Number(c.worst.toPrecision(2))} ${c.unit}`}
              </td>
              <td className="py-1 pl-3 text-soft">{c.where}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h3 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Files</h3>
      <ul className="columns-2 text-[13px]">
        {pack.files.map((f) => (
          <li key={f.name} className="flex justify-between gap-2 break-inside-avoid">
            <span className="truncate font-mono text-xs leading-5">{f.name}</span>
            <span className="text-soft">{sizeText(f.size)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
