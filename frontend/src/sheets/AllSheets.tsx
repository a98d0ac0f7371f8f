import { useLive } from "../state/opened";
import { togetherText } from "../ui/text";
import type { PartRow, Sheet } from "./sheets";

interface Props {
  sheets: Sheet[];
  parts: PartRow[];
  number: number;
  /** Numbers of sheets that bear something that is picked. */
  picked: ReadonlySet<number>;
  onOpen: (number: number) => void;
}

/** All sheets as small pictures, each drawn once it comes into sight. */
export function AllSheets({ sheets, parts, number, picked, onOpen }: Props) {
  const project = useLive((s) => s.project);
  const counts = new Map<number, number>();
  for (const { sheet } of parts) if (sheet !== "") counts.set(sheet, (counts.get(sheet) ?? 0) + 1);
  return (
    <ul
      className="grid min-h-0 grow grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] content-start gap-3 overflow-y-auto p-3"
      aria-label="All sheets"
    >
      {sheets.map((sheet, k) => {
        const count = counts.get(k + 1) ?? 0;
        return (
          <li key={`${sheet.outcome.id} ${sheet.own}`}>
            <button
              type="button"
              aria-current={number === k + 1}
              className={`block w-full rounded-sm border bg-leaf p-2 text-left hover:border-plum ${picked.has(k + 1) ? "border-plum" : "border-rule"}`}
              title={`${sheet.grade}, ${togetherText([sheet.width, sheet.height], "mm", 0, " × ")}`}
              onClick={() => onOpen(k + 1)}
            >
              <img
                src={`/api/projects/${project}/sheets/${k + 1}.svg?of=${sheet.outcome.key}`}
                alt=""
                loading="lazy"
                className="block w-full bg-white object-contain"
                style={{ aspectRatio: `${sheet.width} / ${sheet.height}` }}
              />
              <span className="mt-1 flex justify-between text-[13px]">
                <span>Sheet {k + 1}</span>
                <span className="text-soft">
                  {count} {count === 1 ? "part" : "parts"} · {Math.round(sheet.used * 100)} %
                </span>
              </span>
              <span className="block truncate text-xs text-soft">{sheet.grade}</span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}
