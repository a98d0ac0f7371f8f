import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router-dom";
import { answered, api } from "../api/client";
import { useRound } from "../help/round";

/** What a new project may begin with: short statements that are at once live, as pictures. */
export function NewProjectScreen() {
  const navigate = useNavigate();
  const { data, error } = useQuery({
    queryKey: ["beginnings"],
    queryFn: () => answered(api.GET("/api/beginnings")),
  });
  const begin = useMutation({
    mutationFn: (body: { name: string; beginning: string }) => answered(api.POST("/api/projects", { body })),
    onSuccess: (made) => navigate(`/p/${made.id}`),
  });
  const showRound = (made: { id: string }) => {
    useRound.getState().open(made.id);
    useRound.getState().begin();
  };
  const problem = error ?? begin.error;
  return (
    <div className="h-full overflow-y-auto">
      <header className="flex items-baseline gap-4 border-b border-rule px-8 pt-6 pb-4">
        <Link to="/" className="text-soft hover:text-plum">
          Projects
        </Link>
        <span className="text-soft" aria-hidden>
          /
        </span>
        <h1 className="font-serif text-[24px] leading-tight">Begin with</h1>
        <p className="text-soft">
          a short statement to make one’s own: every number and word in it is changed where it stands
        </p>
      </header>
      {problem && (
        <p role="alert" className="mx-8 mt-4 rounded-sm bg-amber-pale px-3 py-2 text-amber">
          {problem.message}
        </p>
      )}
      <main className="grid grid-cols-[repeat(auto-fill,minmax(15rem,1fr))] gap-x-5 gap-y-6 px-8 py-6">
        <Choice
          name="round"
          title="My first one"
          says="An empty statement and seven steps through it, from a shape to what is delivered."
          busy={begin.isPending}
          onChoose={() =>
            begin.mutate({ name: "My first structure", beginning: "" }, { onSuccess: showRound })
          }
        >
          <span className="font-serif text-4xl text-soft" aria-hidden>
            1 – 7
          </span>
        </Choice>
        {data?.map((b) => (
          <Choice
            key={b.key}
            name={b.key}
            title={b.title}
            says={b.says}
            busy={begin.isPending}
            onChoose={() => begin.mutate({ name: b.title, beginning: b.key })}
          >
            <img src={`/api/beginnings/${b.key}/picture`} alt="" className="size-full object-cover" />
          </Choice>
        ))}
        <Choice
          name="empty"
          title="Nothing yet"
          says="An empty statement, to be written clause by clause with the guide."
          busy={begin.isPending}
          onChoose={() => begin.mutate({ name: "New structure", beginning: "" })}
        >
          <span className="font-serif text-4xl text-soft" aria-hidden>
            …
          </span>
        </Choice>
      </main>
    </div>
  );
}

function Choice({
  name,
  title,
  says,
  busy,
  onChoose,
  children,
}: {
  name: string;
  title: string;
  says: string;
  busy: boolean;
  onChoose: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      data-beginning={name}
      disabled={busy}
      className="group flex flex-col border-t-2 border-ink/70 bg-leaf text-left hover:border-plum disabled:opacity-60"
      onClick={onChoose}
    >
      <span className="flex aspect-[8/5] w-full items-center justify-center overflow-hidden bg-ground">
        {children}
      </span>
      <span className="block px-3 pt-2 font-serif text-[18px] group-hover:text-plum">{title}</span>
      <span className="block px-3 pb-3 text-[13px] leading-snug text-soft">{says}</span>
    </button>
  );
}
