import { useShallow } from "zustand/react/shallow";
import { useClauseKinds } from "./api/kinds";
import { Remarks } from "./Remarks";
import { useLive, useOpened, useView } from "./state/opened";
import { LengthSwitch } from "./ui/LengthSwitch";
import { PaperSwitch } from "./ui/PaperSwitch";
import { ProgressBar } from "./ui/ProgressBar";
import { secondsText } from "./ui/text";

/** The line at the foot: busy or not, the last time, warnings, and what went wrong. */
export function StatusLine() {
  const { live, channel } = useOpened();
  const { busy, progress, quiet, seconds, problem, connection, statement } = useLive(
    useShallow(({ busy, progress, quiet, seconds, problem, connection, statement }) => ({
      busy,
      progress,
      quiet,
      seconds,
      problem,
      connection,
      statement,
    })),
  );
  const picked = useView((s) => s.selected.size);
  const kinds = useClauseKinds();
  const quietKind = statement?.clauses?.find((c) => c.id === quiet?.clause)?.kind;
  const quietTitle = kinds.find((k) => k.kind === quietKind)?.title;
  return (
    <footer
      className="relative z-10 flex h-7 items-center gap-4 border-t border-rule bg-leaf px-3 text-[13px] text-soft"
      aria-live="polite"
    >
      {connection === "lost" && (
        <span className="text-brick">
          The server is not answering; trying again. Nothing that was shown as done is lost.
        </span>
      )}
      {connection === "opening" && <span>Opening …</span>}
      {connection === "open" &&
        (busy ? (
          <span className="flex items-center gap-2">
            <span className="text-plum" data-testid="busy">
              Working{progress?.what ? `: ${progress.what}` : " …"}
            </span>
            {progress && !quiet && <ProgressBar share={progress.share} />}
            {quiet && (
              <span role="alert" className="flex gap-2 text-amber" data-testid="quiet">
                {quietTitle ? `“${quietTitle}” has` : "It has"} got no further for {Math.round(quiet.seconds)}{" "}
                s and is ended in {Math.round(quiet.more)} s.
                <button type="button" className="underline" onClick={() => channel.goOn()}>
                  Let it go on
                </button>
              </span>
            )}
            <button type="button" className="underline hover:text-plum" onClick={() => channel.cancel()}>
              Cancel
            </button>
          </span>
        ) : (
          <span data-testid="ready">
            Ready{seconds !== null && seconds > 0 ? ` · last change took ${secondsText(seconds)}` : ""}
          </span>
        ))}
      <Remarks />
      {picked > 0 && <span>{picked} picked</span>}
      <span className="ml-auto flex items-center">
        <LengthSwitch />
        <PaperSwitch />
      </span>
      {problem && (
        // All of it is to be read: what happened, what is safe, and what to do.
        <span
          role="alert"
          className="absolute right-2 bottom-full mb-1 flex max-w-2xl items-start gap-3 rounded-sm bg-brick-pale px-3 py-2 leading-snug text-brick"
        >
          <span>{problem}</span>
          <button type="button" className="underline" onClick={() => live.setState({ problem: null })}>
            Close
          </button>
        </span>
      )}
    </footer>
  );
}
