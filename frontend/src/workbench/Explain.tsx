import type { ReactNode } from "react";
import type { ClauseKind, Outcome } from "../api/client";
import { Panel } from "../ui/Panel";
import { figureText } from "../ui/text";
import { gives, mayBe, worksOn } from "./explained";

interface Props {
  kind: ClauseKind;
  outcome: Outcome | undefined;
  open: boolean;
  onOpenChange: (open: boolean) => void;
}

/** All there is to say of a clause: what it does, works on and gives, what its values may be, and its figures. */
export function Explain({ kind, outcome, open, onOpenChange }: Props) {
  const takes = worksOn(kind);
  return (
    <Panel title={kind.title} beside={kind.chapter} open={open} onOpenChange={onOpenChange}>
      <div className="flex gap-5">
        {kind.has_picture && (
          <img
            src={`/api/guide/${kind.kind}.png`}
            alt=""
            width={288}
            height={180}
            className="h-fit w-56 shrink-0 bg-ground"
          />
        )}
        <div>
          <p className="font-serif text-[16px]">{kind.summary}</p>
          <p className="mt-1 text-soft">{kind.explained}</p>
          <dl className="mt-3 grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5">
            {takes.length > 0 && (
              <>
                <dt className="text-soft">Works on</dt>
                <dd>
                  {takes
                    .map(
                      (t) =>
                        `${t.label}${t.many ? ", as many as there are" : ""}${t.needed ? "" : " (if there is one)"}`,
                    )
                    .join("; ")}
                </dd>
              </>
            )}
            <dt className="text-soft">Makes</dt>
            <dd>{gives(kind)}</dd>
            {kind.sources.length > 0 && (
              <>
                <dt className="text-soft">After</dt>
                <dd>
                  {kind.sources.map((source) => (
                    <span key={source} className="block">
                      {source}
                    </span>
                  ))}
                </dd>
              </>
            )}
          </dl>
        </div>
      </div>
      <Told
        title="Values"
        rows={kind.values.map((v) => ({
          key: v.name,
          label: v.label,
          says: (
            <>
              {mayBe(v)}
              {v.hint && <span className="block text-soft">{v.hint}</span>}
            </>
          ),
        }))}
      />
      <Told
        title="Figures"
        rows={(outcome?.status === "done" ? outcome.figures : []).map((f) => ({
          key: f.name,
          label: f.label,
          says: figureText(f.value, f.unit, f.decimals),
        }))}
      />
    </Panel>
  );
}

interface Told {
  key: string;
  label: string;
  says: ReactNode;
}

/** Rows of what there is to say, each by its name; nothing where there are none. */
function Told({ title, rows }: { title: string; rows: Told[] }) {
  if (!rows.length) return null;
  return (
    <table className="mt-5 w-full text-left text-[13px]">
      <caption className="pb-1 text-left tracking-widest text-soft uppercase">{title}</caption>
      <tbody>
        {rows.map(({ key, label, says }) => (
          <tr key={key} className="border-t border-rule align-top">
            <th scope="row" className="w-44 py-1 pr-3 font-semibold">
              {label}
            </th>
            <td className="py-1">{says}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
