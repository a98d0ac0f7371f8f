import { useState } from "react";
import { answered, api } from "../api/client";
import { useLive, useOpened } from "../state/opened";
import { Button } from "../ui/Button";
import { ProgressBar } from "../ui/ProgressBar";
import { liesOf, rearrange, type Sheet } from "./sheets";

const SECONDS = 30;

/** How parts came to lie as they do: found at once, found better in the background, or pinned by hand. */
export function Arrangement({ sheet }: { sheet: Sheet }) {
  const opened = useOpened();
  const { channel } = opened;
  const project = useLive((s) => s.project);
  const arranging = useLive((s) => s.arranging);
  const arranged = useLive((s) => s.arranged);
  const [error, setError] = useState("");
  const clause = sheet.outcome.id;
  const lies = liesOf(sheet);
  const pinned = lies.filter((l) => l[5]).length;
  const path = { project, clause };
  const begin = () =>
    answered(
      api.POST("/api/projects/{project}/arrangements/{clause}", {
        params: { path },
        body: { seconds: SECONDS },
      }),
    ).then(
      () => setError(""),
      (e) => setError(e.message),
    );
  const end = () => void api.DELETE("/api/projects/{project}/arrangements/{clause}", { params: { path } });
  const entry = useLive((s) => s.statement?.clauses?.find((c) => c.id === clause));
  const kept = ((entry?.values?.arrangement as unknown[] | undefined) ?? []).length > 0;
  return (
    <section className="mb-4" aria-label="Arrangement">
      <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Arrangement</h2>
      {arranging ? (
        <div data-testid="arranging">
          <ProgressBar share={arranging.share} className="w-full" />
          <p className="my-1 text-[13px] text-soft">
            {arranging.sheets
              ? `Best so far: ${arranging.sheets} sheets, ${Math.round(arranging.used * 100)} % within outlines.`
              : "Looking for a better one …"}
          </p>
          <Button onClick={end}>Take the best now</Button>
        </div>
      ) : (
        <div className="flex flex-wrap gap-2">
          <Button onClick={() => void begin()}>Arrange better ({SECONDS} s)</Button>
          {pinned > 0 && (
            <Button
              onClick={() => void rearrange(opened, sheet, (l) => [l[0], l[1], l[2], l[3], l[4], false])}
            >
              Unpin {pinned}
            </Button>
          )}
          {kept && (
            <Button
              onClick={() =>
                void channel.edit({
                  op: "set",
                  clause,
                  name: "arrangement",
                  value: lies.filter((l) => l[5]),
                })
              }
            >
              Arrange afresh
            </Button>
          )}
        </div>
      )}
      {error && <p className="mt-1 text-[13px] text-brick">{error}</p>}
      {!arranging && arranged?.clause === clause && arranged.text && (
        <p className="mt-1 text-[13px] text-soft" data-testid="arranged">
          {arranged.text}
        </p>
      )}
      <p className="mt-1 text-[13px] text-soft">
        {pinned > 0
          ? `${pinned} pinned ${pinned === 1 ? "part stays" : "parts stay"}; the others may move.`
          : "Drag a part to pin it where it is to stay."}
      </p>
    </section>
  );
}
