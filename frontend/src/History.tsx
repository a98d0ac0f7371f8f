import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { answered, api, type Schemas } from "./api/client";
import { type Opened, useLive, useOpened } from "./state/opened";
import { Button } from "./ui/Button";
import { whenText } from "./ui/text";

type State = Schemas["StateMessage"];

const LONGEST = 80;
const [WIDE, HIGH] = [320, 200];

/** What was done, the last first, to go back to any of it, and what people gave a name; nothing is lost by that. */
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

/** Gives a state a name, and where the view shows it a picture. */
async function nameState({ project, viewport }: Opened, head: number, name: string, isSeen: boolean) {
  const params = { path: { project, head } };
  await answered(api.PUT("/api/projects/{project}/states/{head}/name", { params, body: { name } }));
  const picture = name && isSeen ? await viewport.picture(WIDE, HIGH) : null;
  if (picture)
    await fetch(`/api/projects/${project}/states/${head}/picture`, { method: "PUT", body: picture });
}

function States({ onDone }: { onDone: () => void }) {
  const opened = useOpened();
  const { live, project } = opened;
  const head = useLive((s) => s.head);
  const queries = useQueryClient();
  const key = ["states", project, head];
  const { data, error } = useQuery({
    queryKey: key,
    queryFn: () => answered(api.GET("/api/projects/{project}/states", { params: { path: { project } } })),
  });
  const told = (e: Error) => live.setState({ problem: e.message });
  const goTo = async (state: number) => {
    onDone();
    const params = { path: { project, head: state } };
    await answered(api.POST("/api/projects/{project}/states/{head}", { params })).catch(told);
  };
  const name = async (state: number, text: string) => {
    await nameState(opened, state, text.trim(), state === head).catch(told);
    await queries.invalidateQueries({ queryKey: key });
  };
  if (error)
    return (
      <p role="alert" className="px-3 py-1 text-brick">
        {error.message}
      </p>
    );
  if (!data) return <p className="px-3 py-1 text-soft">Reading the history …</p>;
  const named = data.filter((s) => s.name);
  return (
    <>
      <NameThis
        key={head}
        name={data.find((s) => s.head === head)?.name ?? ""}
        onName={(t) => void name(head, t)}
      />
      {named.length > 0 && (
        <ul aria-label="Named states" className="border-b border-rule pb-1">
          {named.map((s) => (
            <NamedState
              key={s.head}
              state={s}
              project={project}
              isNow={s.head === head}
              onGoTo={() => void goTo(s.head)}
              onForget={() => void name(s.head, "")}
            />
          ))}
        </ul>
      )}
      <ol aria-label="What was done">
        {data
          .filter((s) => s.words)
          .map((s) => (
            <li key={s.head} data-state={s.head}>
              <button
                type="button"
                className="entry w-full text-left disabled:opacity-60"
                disabled={!s.readable || s.head === head}
                onClick={() => void goTo(s.head)}
              >
                <span className="w-3 text-plum">{s.head === head ? "•" : ""}</span>
                <span className="min-w-0 grow">{s.words}</span>
                {s.name && <span className="shrink-0 text-xs text-plum">{s.name}</span>}
                <span className="shrink-0 text-xs text-soft">{whenText(s.made)}</span>
              </button>
            </li>
          ))}
      </ol>
    </>
  );
}

/** Where the project stands now gets a name. */
function NameThis({ name, onName }: { name: string; onName: (text: string) => void }) {
  const [text, setText] = useState(name);
  return (
    <form
      className="flex gap-2 border-b border-rule px-3 pt-1 pb-2"
      onSubmit={(e) => {
        e.preventDefault();
        onName(text);
      }}
    >
      <input
        aria-label="Name of where the project stands now"
        placeholder="Name this state: before the client"
        className="min-w-0 grow rounded-sm border border-rule bg-field px-2 py-0.5"
        maxLength={LONGEST}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <Button type="submit" disabled={text.trim() === name}>
        Keep
      </Button>
    </form>
  );
}

interface NamedProps {
  state: State;
  project: string;
  isNow: boolean;
  onGoTo: () => void;
  onForget: () => void;
}

function NamedState({ state, project, isNow, onGoTo, onForget }: NamedProps) {
  return (
    <li className="flex items-center gap-2 px-3 py-1" data-named={state.name}>
      <button
        type="button"
        className="flex min-w-0 grow items-center gap-3 text-left hover:text-plum disabled:opacity-60"
        disabled={!state.readable || isNow}
        title={isNow ? "The project stands here" : "Go back to this"}
        onClick={onGoTo}
      >
        {state.has_picture ? (
          <img
            src={`/api/projects/${project}/states/${state.head}/picture`}
            alt=""
            width={WIDE}
            height={HIGH}
            className="h-12 w-auto bg-ground"
          />
        ) : (
          <span className="h-12 w-[4.8rem] bg-ground" />
        )}
        <span className="min-w-0">
          <span className="block truncate">{state.name}</span>
          <span className="block text-xs text-soft">
            {isNow ? "now · " : ""}
            {whenText(state.made)}
          </span>
        </span>
      </button>
      <Button tone="quiet" aria-label={`Forget the name ${state.name}`} onClick={onForget}>
        Forget
      </Button>
    </li>
  );
}
