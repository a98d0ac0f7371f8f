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
          </dl>
        </div>
      </div>
      {kind.values.length > 0 && (
        <table className="mt-5 w-full text-left text-[13px]">
          <caption className="pb-1 text-left tracking-widest text-soft uppercase">Values</caption>
          <tbody>
            {kind.values.map((v) => (
              <tr key={v.name} className="border-t border-rule align-top">
                <th scope="row" className="w-44 py-1 pr-3 font-semibold">
                  {v.label}
                </th>
                <td className="py-1">
                  {mayBe(v)}
                  {v.hint && <span className="block text-soft">{v.hint}</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {outcome?.status === "done" && outcome.figures.length > 0 && (
        <table className="mt-5 w-full text-left text-[13px]">
          <caption className="pb-1 text-left tracking-widest text-soft uppercase">Figures</caption>
          <tbody>
            {outcome.figures.map((f) => (
              <tr key={f.name} className="border-t border-rule">
                <th scope="row" className="w-44 py-1 pr-3 font-normal text-soft">
                  {f.label}
                </th>
                <td className="py-1">{figureText(f.value, f.unit, f.decimals)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </Panel>
  );
}
