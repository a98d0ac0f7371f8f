import { useState } from "react";
import { Link, NavLink, useNavigate, useParams } from "react-router-dom";
import { History } from "./History";
import { Help } from "./help/Help";
import { useLive, useOpened } from "./state/opened";
import { Button } from "./ui/Button";
import { itemOf } from "./view/naming";

const SCREENS = [
  { to: "", title: "Workbench" },
  { to: "trace", title: "Trace" },
  { to: "contact", title: "Contact sheet" },
  { to: "schedules", title: "Schedules" },
  { to: "sheets", title: "Sheets" },
  { to: "deliver", title: "Deliver" },
];

/** The one bar on top: project, screens, undo and redo, find. */
export function TopBar() {
  const { channel } = useOpened();
  const { project = "" } = useParams();
  const statement = useLive((s) => s.statement);
  const undoes = useLive((s) => s.undoes);
  const redoes = useLive((s) => s.redoes);
  const [naming, setNaming] = useState<string | null>(null);
  const rename = () => {
    if (naming?.trim() && naming !== statement?.name)
      void channel.edit({ op: "rename", name: naming.trim() });
    setNaming(null);
  };
  return (
    <header className="flex items-center gap-3 border-b border-rule bg-leaf px-3 py-1.5">
      <Link to="/" className="flex items-center gap-2 text-soft hover:text-plum" title="All projects">
        <img src="/icon.svg" alt="" className="size-5" />
        Projects
      </Link>
      <span className="text-soft" aria-hidden>
        /
      </span>
      <h1 className="contents">
        {naming === null ? (
          <button
            type="button"
            className="max-w-52 truncate font-serif max-[1150px]:max-w-32 text-[17px] hover:text-plum"
            title="Rename the project"
            onClick={() => setNaming(statement?.name ?? "")}
          >
            {statement?.name ?? "…"}
          </button>
        ) : (
          <input
            aria-label="Name of the project"
            className="w-52 rounded-sm border border-plum px-1 font-serif text-[17px]"
            maxLength={120}
            value={naming}
            onChange={(e) => setNaming(e.target.value)}
            onBlur={rename}
            onKeyDown={(e) => {
              if (e.key === "Enter") rename();
              if (e.key === "Escape") setNaming(null);
            }}
          />
        )}
      </h1>
      <nav className="ml-2 flex" aria-label="Screens">
        {SCREENS.map((s) => (
          <NavLink
            key={s.to}
            end
            to={`/p/${project}${s.to ? `/${s.to}` : ""}`}
            className={({ isActive }) =>
              `border-b-2 px-2 py-0.5 whitespace-nowrap max-[1150px]:px-1.5 ${isActive ? "border-plum text-plum" : "border-transparent hover:text-plum"}`
            }
          >
            {s.title}
          </NavLink>
        ))}
      </nav>
      <span className="grow" />
      <Find />
      <Button
        onClick={() => void channel.history("undo")}
        disabled={!undoes}
        title={`Takes back: ${undoes}\nCtrl Z`}
      >
        Undo
      </Button>
      <Button
        onClick={() => void channel.history("redo")}
        disabled={!redoes}
        title={`Does again: ${redoes}\nCtrl Shift Z`}
      >
        Redo
      </Button>
      <History />
      <Help />
    </header>
  );
}

function Find() {
  const { live, viewing } = useOpened();
  const [text, setText] = useState("");
  const [missed, setMissed] = useState(false);
  const navigate = useNavigate();
  const { project = "" } = useParams();
  const find = () => {
    const found = itemOf(live.getState(), text);
    setMissed(!found);
    if (!found) return;
    navigate(`/p/${project}`);
    viewing.getState().show([found]);
    setText("");
  };
  return (
    <span className="relative">
      <input
        id="find"
        aria-label="Find by label"
        title={"Find a thing by its label\nKey: /"}
        placeholder="Find M12, N3, P7 …"
        className={`w-40 rounded-sm max-[1150px]:w-24 border bg-field px-2 py-0.5 text-sm ${missed ? "border-brick" : "border-rule"}`}
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setMissed(false);
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") find();
          if (e.key === "Escape") e.currentTarget.blur();
        }}
      />
      {missed && (
        <span className="floating absolute top-8 right-0 px-2 py-1 text-xs whitespace-nowrap text-brick">
          Nothing is labelled “{text}”.
        </span>
      )}
    </span>
  );
}
