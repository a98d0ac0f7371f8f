import { useEffect } from "react";
import { useLive, useOpened } from "../state/opened";

const QUIET_MS = 2500;

/** Sends a picture for the project's card once things have been quiet for a while. */
export function useCardPicture() {
  const { live, viewing, viewport } = useOpened();
  const busy = useLive((s) => s.busy);
  const head = useLive((s) => s.head);
  const project = useLive((s) => s.project);
  const outcomes = useLive((s) => s.outcomes);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a change of the head starts it anew
  useEffect(() => {
    if (busy || !project || !Object.values(outcomes).some((o) => o.status === "done")) return;
    const take = async () => {
      // It takes a while where pictures are drawn slowly: nobody is to wait for it.
      const wait = viewport.isFine ? QUIET_MS - viewport.untouched : QUIET_MS / 4;
      if (wait > 0) {
        timer = setTimeout(take, wait);
        return;
      }
      // A model that is shown apart, or some things of it alone, is no picture of it.
      const { spread, alone } = viewing.getState();
      if (!viewport.element.isConnected || spread || alone) return;
      const picture = await viewport.picture(480, 300);
      if (picture && live.getState().project === project)
        await fetch(`/api/projects/${project}/picture`, { method: "PUT", body: picture }).catch(
          () => undefined,
        );
    };
    let timer = setTimeout(take, QUIET_MS);
    return () => clearTimeout(timer);
  }, [busy, head, project, outcomes]);
}
