import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { answered, api } from "./api/client";
import { useLive } from "./live/live";
import { Button } from "./ui/Button";
import { whenText } from "./ui/text";

/** What was done, the last first, to go back to any of it; nothing is lost by that. */
export function History() {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <Button tone="quiet">History</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          collisionPadding={8}
          aria-label="History"
          className="floating max-h-[70vh] w-96 overflow-y-auto py-1"
        >
          <States onDone={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function States({ onDone }: { onDone: () => void }) {
  const project = useLive((s) => s.project);
  const head = useLive((s) => s.head);
  const { data, error } = useQuery({
    queryKey: ["states", project, head],
    queryFn: () => answered(api.GET("/api/projects/{project}/states", { params: { path: { project } } })),
  });
  const goTo = async (state: number) => {
    onDone();
    const params = { path: { project, head: state } };
    await answered(api.POST("/api/projects/{project}/states/{head}", { params })).catch((e: Error) =>
      useLive.setState({ problem: e.message }),
    );
  };
  if (error)
    return (
      <p role="alert" className="px-3 py-1 text-brick">
        {error.message}
      </p>
    );
  if (!data) return <p className="px-3 py-1 text-soft">Reading the history …</p>;
  return (
    <ol>
      {data.map((s) => (
        <li key={s.head} data-state={s.head}>
          <button
            type="button"
            className="entry w-full text-left disabled:opacity-60"
            disabled={!s.readable || s.head === head}
            onClick={() => void goTo(s.head)}
          >
            <span className="w-3 text-plum">{s.head === head ? "•" : ""}</span>
            <span className="min-w-0 grow">{s.words}</span>
            <span className="shrink-0 text-xs text-soft">{whenText(s.made)}</span>
          </button>
        </li>
      ))}
    </ol>
  );
}
