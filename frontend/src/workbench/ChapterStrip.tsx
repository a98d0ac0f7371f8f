import { type RefObject, useEffect, useMemo, useState } from "react";
import { useClauseKinds } from "../api/kinds";
import { useLive, useOpened } from "../state/opened";
import { chapterAt, chapterRuns } from "./runs";

const sectionsIn = (host: HTMLElement) => [...host.querySelectorAll<HTMLElement>("[data-run]")];

/** The chapters of the statement, of which the one that is read is marked; each leads to its clauses. */
export function ChapterStrip({ scrolled }: { scrolled: RefObject<HTMLDivElement | null> }) {
  const { viewing } = useOpened();
  const clauses = useLive((s) => s.statement?.clauses);
  const kinds = useClauseKinds();
  const [now, setNow] = useState("");
  const runs = useMemo(
    () => chapterRuns(clauses ?? [], Object.fromEntries(kinds.map((k) => [k.kind, k]))),
    [clauses, kinds],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: chapters that come and go move the others
  useEffect(() => {
    const host = scrolled.current;
    if (!host) return;
    const look = () => {
      const top = host.getBoundingClientRect().top;
      const tops = sectionsIn(host).map((s) => ({
        key: s.dataset.run!,
        top: s.getBoundingClientRect().top - top,
      }));
      setNow(chapterAt(tops, host.scrollTop + host.clientHeight >= host.scrollHeight - 1, host.clientHeight));
    };
    look();
    host.addEventListener("scroll", look, { passive: true });
    return () => host.removeEventListener("scroll", look);
  }, [scrolled, runs]);
  if (runs.length < 2) return null;
  const goTo = (key: string) => {
    viewing.getState().fold([key], false);
    const section = sectionsIn(scrolled.current!).find((s) => s.dataset.run === key);
    section?.scrollIntoView({ block: "start" });
  };
  return (
    <nav
      className="flex shrink-0 gap-0.5 overflow-x-auto border-b border-rule bg-leaf px-2 py-1 text-[13px] whitespace-nowrap [scrollbar-width:none]"
      aria-label="Chapters of the statement"
    >
      {runs.map((run) => (
        <button
          key={run.key}
          type="button"
          aria-current={run.key === now}
          className={`rounded-sm px-1.5 ${run.key === now ? "bg-plum-pale text-plum" : "text-soft hover:text-plum"}`}
          onClick={() => goTo(run.key)}
        >
          {run.chapter || "Unknown"}
        </button>
      ))}
    </nav>
  );
}
