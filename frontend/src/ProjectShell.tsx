import { lazy, Suspense, useEffect } from "react";
import { Link, Route, Routes, useParams } from "react-router-dom";
import type { ClauseEntry, Edit } from "./api/client";
import { useRound } from "./help/round";
import { ShownRound } from "./help/ShownRound";
import { RescueScreen } from "./RescueScreen";
import { StatusLine } from "./StatusLine";
import { type Opened, OpenedProject, useLive, useMargin, useOpened } from "./state/opened";
import { TopBar } from "./TopBar";
import { Boundary } from "./ui/Boundary";
import { useLengths } from "./ui/lengths";
import { useCardPicture } from "./view/cardPicture";
import { asText, fromText } from "./workbench/clipboard";
import { Workbench } from "./workbench/Workbench";

const ContactScreen = lazy(async () => ({
  default: (await import("./contact/ContactScreen")).ContactScreen,
}));
const DeliverScreen = lazy(async () => ({
  default: (await import("./deliver/DeliverScreen")).DeliverScreen,
}));
const SchedulesScreen = lazy(async () => ({
  default: (await import("./schedules/SchedulesScreen")).SchedulesScreen,
}));
const SheetsScreen = lazy(async () => ({ default: (await import("./sheets/SheetsScreen")).SheetsScreen }));
const TraceScreen = lazy(async () => ({ default: (await import("./trace/TraceScreen")).TraceScreen }));

export { makeReady } from "./state/opened";

/** An open project: its bar, the screen at hand and the status line. */
export function ProjectShell() {
  const { project = "" } = useParams();
  return (
    <OpenedProject key={project} project={project}>
      <Screens />
    </OpenedProject>
  );
}

function Screens() {
  const { project, viewing } = useOpened();
  const connection = useLive((s) => s.connection);
  const name = useLive((s) => s.statement?.name);
  const lengths = useMargin((m) => m.lengths);
  useEffect(() => useLengths.setState({ system: lengths }), [lengths]);
  useEffect(() => useRound.getState().open(project), [project]);
  useEffect(() => {
    document.title = name ? `${name} · Lean Lattice` : "Lean Lattice";
  }, [name]);
  // Handles of the first shape are at hand from the start.
  const firstClause = useLive((s) => s.statement?.clauses?.[0]?.id);
  useEffect(() => {
    if (firstClause && !viewing.getState().active) viewing.setState({ active: firstClause });
  }, [firstClause, viewing]);
  useCardPicture();
  useShortcuts();
  useClipboard();
  if (connection === "gone")
    return (
      <p className="p-8 font-serif text-lg">
        There is no such project.{" "}
        <Link className="live" to="/">
          All projects
        </Link>
      </p>
    );
  if (connection === "unreadable") return <RescueScreen project={project} />;
  return (
    <div className="grid h-full grid-rows-[auto_minmax(0,1fr)_auto]">
      <TopBar />
      <Suspense fallback={<p className="p-8 text-soft">Opening …</p>}>
        <Routes>
          <Route index element={<Workbench />} />
          <Route
            path="contact"
            element={
              <Boundary name="The contact sheet">
                <ContactScreen />
              </Boundary>
            }
          />
          <Route
            path="trace"
            element={
              <Boundary name="The drawing">
                <TraceScreen />
              </Boundary>
            }
          />
          <Route
            path="schedules"
            element={
              <Boundary name="The schedules">
                <SchedulesScreen />
              </Boundary>
            }
          />
          <Route
            path="sheets"
            element={
              <Boundary name="The sheets">
                <SheetsScreen />
              </Boundary>
            }
          />
          <Route
            path="deliver"
            element={
              <Boundary name="What is delivered">
                <DeliverScreen />
              </Boundary>
            }
          />
        </Routes>
      </Suspense>
      <ShownRound project={project} />
      <StatusLine />
    </div>
  );
}

/** Copies the clauses that are chosen, or the one at hand, as text, and puts clauses that are pasted below it. */
function useClipboard() {
  const opened = useOpened();
  const { live, viewing } = opened;
  useEffect(() => {
    const isTyping = () => {
      const at = document.activeElement;
      return at instanceof HTMLInputElement || at instanceof HTMLTextAreaElement;
    };
    const copy = (e: ClipboardEvent) => {
      const clauses = live.getState().statement?.clauses ?? [];
      const { chosen, active } = viewing.getState();
      const entries = clauses.filter((c) => (chosen.size ? chosen.has(c.id) : c.id === active));
      if (!entries.length || isTyping() || window.getSelection()?.toString()) return;
      e.clipboardData?.setData("text/plain", asText(entries));
      e.preventDefault();
    };
    const paste = (e: ClipboardEvent) => {
      if (isTyping()) return;
      const clauses = live.getState().statement?.clauses ?? [];
      const pasted = fromText(e.clipboardData?.getData("text/plain") ?? "", clauses);
      if (pasted) void putIn(opened, pasted, viewing.getState().active);
    };
    document.addEventListener("copy", copy);
    document.addEventListener("paste", paste);
    return () => {
      document.removeEventListener("copy", copy);
      document.removeEventListener("paste", paste);
    };
  }, [opened, live, viewing]);
}

/** Puts clauses below another one, or at the end. */
async function putIn({ live, viewing, channel }: Opened, pasted: ClauseEntry[], below: string | null) {
  const clauses = live.getState().statement?.clauses ?? [];
  const at = clauses.findIndex((c) => c.id === below) + 1 || clauses.length;
  const edits = pasted.map((clause, k) => ({ op: "add", at: at + k, clause }));
  const one = edits.length === 1 ? edits[0] : { op: "together", edits };
  if (await channel.edit(one as Edit)) viewing.getState().set({ active: pasted.at(-1)!.id });
}

function useShortcuts() {
  const { viewing, channel } = useOpened();
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement;
      const view = viewing.getState();
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !typing) {
        e.preventDefault();
        void channel.history(e.shiftKey ? "redo" : "undo");
      } else if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
      else if (e.key === "o") view.set({ look: "oblique" });
      else if (e.key === "p") view.set({ look: "plan" });
      else if (e.key === "x" || e.key === "y") view.set({ look: e.key });
      else if (e.key === "l") view.toggle("labels");
      else if (e.key === "m") view.set({ tool: view.tool === "measure" ? "pick" : "measure" });
      else if (e.key === "Escape") {
        view.select([]);
        view.set({ tool: "pick", chosen: new Set() });
      } else if (e.key === "/") {
        e.preventDefault();
        document.getElementById("find")?.focus();
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [viewing, channel]);
}
