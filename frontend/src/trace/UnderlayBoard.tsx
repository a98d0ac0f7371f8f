import { useEffect, useState } from "react";
import type { ClauseEntry, Outcome } from "../api/client";
import { useLive, useOpened } from "../state/opened";
import { figureText } from "../ui/text";
import { ToolButton } from "./CurveBoard";
import { Sheet } from "./Sheet";
import { distance, type Point, type Sight } from "./sheet";

const TOUCH = 12;
const NAMES = {
  corners: ["upper left", "upper right", "lower right", "lower left"],
  known: ["one end", "the other end"],
};

/** A picture to trace over: its four corners marked on it as it came, and a known length on it straightened. */
export function UnderlayBoard({
  entry,
  outcome,
  file,
  marks,
}: {
  entry: ClauseEntry;
  outcome: Outcome | undefined;
  file: string[];
  marks: { corners: Point[]; known: Point[] };
}) {
  const { channel } = useOpened();
  const project = useLive((s) => s.project);
  const [step, setStep] = useState<"corners" | "known">("corners");
  const [held, setHeld] = useState<{ index: number; at: Point } | null>(null);
  const [shape, setShape] = useState<Point>([4, 3]);
  const [sight, setSight] = useState<Sight>({ x: 2, y: 1.5, metresPerPixel: 0.008 });
  const src =
    step === "corners"
      ? file[0] && `/api/files/${file[0]}`
      : outcome?.status === "done" && `/api/projects/${project}/underlays/${entry.id}.png?${outcome.key}`;
  // The sheet counts in hundreds of pixels here: the picture's own size.
  useEffect(() => {
    if (!src) return;
    const image = new Image();
    image.onload = () => {
      const size: Point = [image.naturalWidth / 100, image.naturalHeight / 100];
      setShape(size);
      setSight({ x: size[0] / 2, y: size[1] / 2, metresPerPixel: Math.max(size[0] / 620, size[1] / 520) });
    };
    image.src = src;
  }, [src]);
  const places = marks[step].map((m, k) => (held?.index === k ? held.at : m));
  const toSheet = (m: Point): Point => [m[0] * shape[0], (1 - m[1]) * shape[1]];
  const toShare = (p: Point): Point => [
    Number((p[0] / shape[0]).toFixed(5)),
    Number((1 - p[1] / shape[1]).toFixed(5)),
  ];
  const press = (at: Point) => {
    const gaps = places.map((m) => distance(toSheet(m), at));
    const index = gaps.indexOf(Math.min(...gaps));
    const near = index >= 0 && gaps[index]! < TOUCH * sight.metresPerPixel;
    if (near) setHeld({ index, at: places[index]! });
    return near;
  };
  // Where the pointer is let go counts, which may be further on than the last move that was shown.
  const lift = (at: Point) => {
    if (!held) return;
    const value = marks[step].map((m, k) => (k === held.index ? toShare(at) : m));
    void channel.edit({ op: "set", clause: entry.id, name: step, value });
    setHeld(null);
  };
  return (
    <>
      <Sheet
        label="The picture"
        toScale={false}
        sight={sight}
        onSight={setSight}
        crosshair={Boolean(held)}
        onPress={press}
        onMove={(at) => held && setHeld({ ...held, at: toShare(at) })}
        onLift={lift}
      >
        {({ px }) => {
          const [x0, y0] = px([0, 0]);
          const [x1, y1] = px(shape);
          const spots = places.map((m) => px(toSheet(m)));
          return (
            <>
              {src && <image href={src} x={x0} y={y1} width={x1 - x0} height={y0 - y1} />}
              <path
                d={`${spots.map((s, k) => `${k ? "L" : "M"}${s[0]} ${s[1]}`).join("")}${step === "corners" ? "Z" : ""}`}
                fill="none"
                stroke="#7a2e62"
                strokeWidth={1.6}
              />
              {spots.map(([x, y], k) => (
                <g key={NAMES[step][k]} data-mark={`${step}-${k}`} className="cursor-move">
                  <circle
                    cx={x}
                    cy={y}
                    r={8}
                    fill="#fdfaf2"
                    fillOpacity={0.4}
                    stroke="#7a2e62"
                    strokeWidth={2}
                  />
                  <circle cx={x} cy={y} r={1.5} fill="#7a2e62" />
                  <text
                    x={k === 1 || k === 2 ? x - 12 : x + 12}
                    y={y + 20}
                    textAnchor={k === 1 || k === 2 ? "end" : "start"}
                    className="fill-plum font-mono text-[12px]"
                  >
                    {NAMES[step][k]}
                  </text>
                </g>
              ))}
            </>
          );
        }}
      </Sheet>
      <aside className="overflow-y-auto border-l border-rule px-3 py-3" aria-label="Picture">
        <h2 className="mb-1 text-[13px] tracking-widest text-soft uppercase">Picture</h2>
        <div className="flex gap-1" role="group" aria-label="What to mark">
          <ToolButton title="Corners" on={step === "corners"} onClick={() => setStep("corners")} />
          <ToolButton title="Known length" on={step === "known"} onClick={() => setStep("known")} />
        </div>
        <p className="mt-2 text-[13px] text-soft">
          {!src
            ? "Choose a picture first: click “no file yet” in the clause at the left."
            : step === "corners"
              ? "Drag the four marks to the corners of something that is rectangular in reality, such as a wall or a sheet of paper."
              : "Drag the two marks to places whose distance you know, and give that distance in the clause."}
        </p>
        {outcome?.figures.map((f) => (
          <p key={f.name} className="flex justify-between">
            <span className="text-soft">{f.label}</span>
            <span>{figureText(f.value, f.unit, f.decimals)}</span>
          </p>
        ))}
      </aside>
    </>
  );
}
