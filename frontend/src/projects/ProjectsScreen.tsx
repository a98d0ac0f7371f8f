import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router-dom";
import { answered, api, sentence } from "../api/client";
import { Button } from "../ui/Button";
import { ChoiceEntries, Menu } from "../ui/Menu";
import { PaperSwitch } from "../ui/PaperSwitch";
import { Card } from "./Card";
import { cardGroups, ORDERS, type Order } from "./cards";
import { usePortraits } from "./portraits";

const LARGEST_FILE = 150_000_000;

/** All projects as cards. */
export function ProjectsScreen() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState<{ text: string; back?: string } | null>(null);
  const { data, error } = useQuery({
    queryKey: ["projects"],
    queryFn: () => answered(api.GET("/api/projects")),
    staleTime: 0,
  });
  const drawing = usePortraits(data);
  const [text, setText] = useState("");
  const [order, setOrder] = useState<Order>("changed");
  const groups = cardGroups(data ?? [], text, order);
  const renew = () => queries.invalidateQueries({ queryKey: ["projects"] });
  const act = useMutation({
    mutationFn: (doing: () => Promise<unknown>) => doing(),
    onSuccess: renew,
    onError: (e) => setSaid({ text: e.message }),
  });
  const open = (chosen: File | undefined) =>
    chosen &&
    act.mutate(async () => {
      if (chosen.size > LARGEST_FILE)
        throw new Error(`“${chosen.name}” is larger than the 150 MB a statement may have.`);
      const body = new FormData();
      body.append("file", chosen);
      const answer = await fetch("/api/projects/import", { method: "POST", body });
      const made = await answer.json();
      if (!answer.ok) throw new Error(sentence(made));
      navigate(`/p/${made.id}`);
    });
  return (
    <div className="h-full overflow-y-auto">
      <header className="flex items-end gap-3 border-b border-rule px-8 pt-7 pb-4">
        <img src="/icon.svg" alt="" className="size-11" />
        <div>
          <h1 className="font-serif text-[26px] leading-tight">Lean Lattice</h1>
          <p className="text-soft">Lattice structures from their shape to their cut parts</p>
        </div>
        <span className="grow" />
        <Button tone="live" onClick={() => navigate("/new")}>
          New project
        </Button>
        <Button onClick={() => file.current?.click()}>Open a statement file</Button>
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          hidden
          onChange={(e) => {
            open(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
        <Button
          title="Brings the demo projects back as they came; ones you changed are kept beside them"
          onClick={() => act.mutate(() => answered(api.POST("/api/demo/restore")))}
        >
          Restore the demo
        </Button>
      </header>
      {(said || error) && (
        <p role="alert" className="mx-8 mt-4 flex gap-3 rounded-sm bg-amber-pale px-3 py-2 text-amber">
          {said?.text ?? error?.message}
          {said?.back && (
            <button
              type="button"
              className="underline"
              onClick={() => {
                const id = said.back!;
                setSaid(null);
                act.mutate(() =>
                  answered(
                    api.POST("/api/projects/{project}/bring-back", { params: { path: { project: id } } }),
                  ),
                );
              }}
            >
              Bring it back
            </button>
          )}
          <button type="button" className="ml-auto underline" onClick={() => setSaid(null)}>
            Close
          </button>
        </p>
      )}
      <main className="px-8 pt-4 pb-8">
        {data && data.length > 0 && (
          <div className="flex items-center gap-4 text-sm text-soft">
            <input
              type="search"
              aria-label="Search the projects"
              placeholder="search: hall, columns …"
              className="w-60 rounded-sm border border-rule bg-field px-2 py-0.5 text-ink"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <span>
              in order of{" "}
              <Menu
                trigger={
                  <button type="button" className="live" data-value="order">
                    {ORDERS[order]}
                  </button>
                }
              >
                <ChoiceEntries
                  value={order}
                  choices={Object.entries(ORDERS).map(([key, title]) => ({ key, title }))}
                  onChoose={(key) => setOrder(key as Order)}
                />
              </Menu>
            </span>
            <span className="ml-auto">
              <PaperSwitch />
            </span>
          </div>
        )}
        {groups.map((group) => (
          <section key={group.title} aria-label={group.title}>
            <h2 className="mt-5 mb-2 text-[13px] tracking-widest text-soft uppercase">{group.title}</h2>
            <div className="grid grid-cols-[repeat(auto-fill,minmax(17rem,1fr))] gap-6">
              {group.cards.map((p) => (
                <Card
                  key={p.id}
                  card={p}
                  drawing={drawing === p.id}
                  onDuplicate={() =>
                    act.mutate(() =>
                      answered(
                        api.POST("/api/projects/{project}/duplicate", {
                          params: { path: { project: p.id } },
                        }),
                      ),
                    )
                  }
                  onRemove={() =>
                    act.mutate(async () => {
                      await answered(
                        api.DELETE("/api/projects/{project}", { params: { path: { project: p.id } } }),
                      );
                      setSaid({ text: `“${p.name}” was removed.`, back: p.id });
                    })
                  }
                />
              ))}
            </div>
          </section>
        ))}
        {data && data.length > 0 && groups.length === 0 && (
          <p className="py-10 text-soft">
            No project speaks of “{text}”; try a word of its name, or of what it is made of.
          </p>
        )}
        {data?.length === 0 && (
          <p className="py-10 font-serif text-lg text-soft">
            No projects yet. Begin a new one, or restore the demo to look around.
          </p>
        )}
      </main>
    </div>
  );
}
