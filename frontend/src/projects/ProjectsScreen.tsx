import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router-dom";
import { answered, api, type ProjectCard, sentence } from "../api/client";
import { Button } from "../ui/Button";
import { Menu, MenuEntry, MenuRule } from "../ui/Menu";
import { figureText, whenText } from "../ui/text";
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
  const renew = () => queries.invalidateQueries({ queryKey: ["projects"] });
  const act = useMutation({
    mutationFn: (doing: () => Promise<unknown>) => doing(),
    onSuccess: renew,
    onError: (e) => setSaid({ text: e.message }),
  });
  const create = () =>
    act.mutate(async () => {
      const made = await answered(api.POST("/api/projects", { body: { name: "New roof" } }));
      navigate(`/p/${made.id}`);
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
        <Button tone="live" onClick={create}>
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
      <main className="grid grid-cols-[repeat(auto-fill,minmax(17rem,1fr))] gap-6 px-8 py-6">
        {data?.map((p) => (
          <Card
            key={p.id}
            card={p}
            drawing={drawing === p.id}
            onDuplicate={() =>
              act.mutate(() =>
                answered(
                  api.POST("/api/projects/{project}/duplicate", { params: { path: { project: p.id } } }),
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
        {data?.length === 0 && (
          <p className="col-span-full py-10 font-serif text-lg text-soft">
            No projects yet. Begin a new one, or restore the demo to look around.
          </p>
        )}
      </main>
    </div>
  );
}

interface Shown {
  value: number;
  unit: string;
  decimals: number;
}

function Card({
  card,
  drawing,
  onDuplicate,
  onRemove,
}: {
  card: ProjectCard;
  drawing: boolean;
  onDuplicate: () => void;
  onRemove: () => void;
}) {
  const figures = Object.entries(card.figures).filter(([name]) => name !== "picture") as [string, Shown][];
  const save = async () => {
    const answer = await fetch(`/api/projects/${card.id}/statement-file`);
    const link = document.createElement("a");
    link.href = URL.createObjectURL(await answer.blob());
    link.download = `${card.name}.json`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 1000);
  };
  return (
    <article className="group border-t-2 border-ink/70 bg-leaf" data-project={card.name}>
      <Link to={`/p/${card.id}`} className="block" aria-label={`Open ${card.name}`}>
        <div className="flex aspect-[8/5] items-center justify-center overflow-hidden bg-ground">
          {card.has_picture ? (
            <img
              src={`/api/projects/${card.id}/picture?${card.changed}`}
              alt=""
              className="size-full object-cover transition-transform group-hover:scale-[1.02]"
            />
          ) : (
            <span className="text-[13px] text-soft">{drawing ? "being drawn …" : "not drawn yet"}</span>
          )}
        </div>
      </Link>
      <div className="flex items-start gap-2 px-3 pt-2 pb-3">
        <div className="min-w-0 grow">
          <Link to={`/p/${card.id}`} className="block truncate font-serif text-[18px] hover:text-plum">
            {card.name}
          </Link>
          <p className="text-[13px] text-soft">
            {figures
              .map(([name, f]) => `${figureText(f.value, f.unit, f.decimals)}${f.unit ? "" : ` ${name}`}`)
              .join(" · ") || "no figures yet"}
          </p>
          <p className="text-[13px] text-soft">
            {card.demo ? "demo · " : ""}changed {whenText(card.changed)}
          </p>
        </div>
        <Menu
          align="end"
          trigger={
            <Button tone="quiet" aria-label={`More for ${card.name}`}>
              ⋯
            </Button>
          }
        >
          <MenuEntry onSelect={onDuplicate}>Duplicate</MenuEntry>
          <MenuEntry onSelect={() => void save()}>Save as a statement file</MenuEntry>
          <MenuRule />
          <MenuEntry onSelect={onRemove}>Remove</MenuEntry>
        </Menu>
      </div>
    </article>
  );
}
