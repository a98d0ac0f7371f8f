import { Link } from "react-router-dom";
import type { ProjectCard } from "../api/client";
import { Button } from "../ui/Button";
import { Menu, MenuEntry, MenuRule } from "../ui/Menu";
import { saveAs } from "../ui/saving";
import { capital, figureText, whenText } from "../ui/text";

/** A project: its picture, what it is of, and its figures. */
export function Card({
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
  const figures = Object.entries(card.figures);
  const save = async () => {
    const answer = await fetch(`/api/projects/${card.id}/statement-file`);
    saveAs(await answer.blob(), `${card.name}.json`);
  };
  return (
    <article className="group border-t-2 border-ink/70 bg-leaf" data-project={card.name}>
      <Link to={`/p/${card.id}`} className="block" aria-hidden tabIndex={-1}>
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
          {card.builds.length > 0 && (
            <p className="truncate text-[13px]">{capital(card.builds.join(", "))}</p>
          )}
          <p className="text-[13px] text-soft">
            {figures
              .map(
                ([name, f]) =>
                  `${figureText(f.value, f.unit, f.decimals)}${f.unit ? "" : `\u00a0${name.replaceAll(" ", "\u00a0")}`}`,
              )
              .join(" · ") || "no figures yet"}
          </p>
          <p className="text-[13px] text-soft">
            {card.demo && card.changed === card.created ? "as it came" : `changed ${whenText(card.changed)}`}
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
