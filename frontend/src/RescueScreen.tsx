import { useEffect, useState } from "react";
import { Link } from "react-router-dom";
import { answered, api, type Schemas } from "./api/client";
import { useOpened } from "./state/opened";
import { Button } from "./ui/Button";

type State = Schemas["StateMessage"];

/** A project that stands at something that cannot be read: where it stood before, to go back to. */
export function RescueScreen({ project }: { project: string }) {
  const { channel } = useOpened();
  const [states, setStates] = useState<State[] | null>(null);
  const [problem, setProblem] = useState("");
  useEffect(() => {
    answered(api.GET("/api/projects/{project}/states", { params: { path: { project } } }))
      .then(setStates)
      .catch((error: Error) => setProblem(error.message));
  }, [project]);
  async function goTo(head: number) {
    try {
      await answered(
        api.POST("/api/projects/{project}/states/{head}", { params: { path: { project, head } } }),
      );
      channel.open();
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  }
  const last = states?.find((s) => s.readable);
  return (
    <main className="mx-auto h-full max-w-2xl overflow-y-auto p-8">
      <h1 className="font-serif text-2xl">This project cannot be read where it stands</h1>
      <p className="mt-2 text-soft">
        Nothing of it is lost: every change is kept. Go back to where it can be read; what was done after that
        stays in its history. Other projects are not concerned.
      </p>
      {problem && (
        <p role="alert" className="mt-3 text-brick">
          {problem}
        </p>
      )}
      {last && (
        <p className="mt-4">
          <Button tone="live" onClick={() => void goTo(last.head)}>
            Go back to the last state that can be read
          </Button>
        </p>
      )}
      {states && !last && <p className="mt-4">None of the last {states.length} states can be read.</p>}
      <ol className="mt-6" aria-label="States">
        {states?.map((s) => (
          <li
            key={s.head}
            className="flex items-baseline gap-4 border-t border-rule py-1"
            data-state={s.head}
          >
            <span className="w-40 shrink-0 text-soft">{new Date(s.made).toLocaleString("en-GB")}</span>
            <span className="grow">{s.words}</span>
            {s.readable ? (
              <button type="button" className="live" onClick={() => void goTo(s.head)}>
                Go back to here
              </button>
            ) : (
              <span className="text-soft">cannot be read</span>
            )}
          </li>
        ))}
      </ol>
      <p className="mt-6">
        <Link className="live" to="/">
          All projects
        </Link>
      </p>
    </main>
  );
}
