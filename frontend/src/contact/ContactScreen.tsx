import { useRef, useState } from "react";
import { useNavigate, useParams } from "react-router-dom";
import { answered, api, type ClauseEntry, type ClauseKind, type Figure, type ValueSpec } from "../api/client";
import { useClauseKinds } from "../api/kinds";
import { useLive, useOpened, useView } from "../state/opened";
import { Button } from "../ui/Button";
import { ProgressBar } from "../ui/ProgressBar";
import { figureText } from "../ui/text";
import { segmentsOf, valueIn } from "../workbench/values/values";
import { inCommon } from "./inCommon";

const AT_ONCE = 4;
const MOST = 60;
/** So many headline figures stand below a picture. */
const TOLD = 6;

/** One value over a range: where it lies, and the settings it is tried at. */
interface Range {
  clause: string;
  name: string;
  from: number;
  to: number;
  count: number;
}

interface Setting {
  values: { clause: string; name: string; value: number; label: string; unit: string }[];
  figures?: Figure[];
  picture?: string;
  error?: string;
}

interface Variable {
  id: string;
  clause: ClauseEntry;
  kind: ClauseKind;
  spec: ValueSpec;
}

/** Small pictures of one value, or a pair of values, at many settings, to pick one from. */
export function ContactScreen() {
  const { viewing, channel } = useOpened();
  const { project = "" } = useParams();
  const navigate = useNavigate();
  const clauses = useLive((s) => s.statement?.clauses) ?? [];
  const kinds = useClauseKinds();
  const active = useView((s) => s.active);
  const variables = numbersOf(clauses, kinds);
  const start =
    variables.find((v) => v.clause.id === active && v.spec.name === "seed") ?? favourite(variables);
  const [first, setFirst] = useState<Range | null>(null);
  const [second, setSecond] = useState<Range | null>(null);
  const [settings, setSettings] = useState<Setting[]>([]);
  const [done, setDone] = useState(0);
  const [running, setRunning] = useState(false);
  const stop = useRef<AbortController | null>(null);
  const one = first ?? (start ? rangeOf(start) : null);

  const make = async () => {
    if (!one) return;
    const wanted = settingsOf(one, second, variables);
    setSettings(wanted);
    setDone(0);
    setRunning(true);
    const control = new AbortController();
    stop.current = control;
    let next = 0;
    const work = async () => {
      while (next < wanted.length && !control.signal.aborted) {
        const k = next++;
        const found = await tried(project, wanted[k]!, k, control.signal);
        if (control.signal.aborted) return;
        setSettings((all) => all.map((s, i) => (i === k ? found : s)));
        setDone((n) => n + 1);
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
    setRunning(false);
  };
  const halt = () => {
    stop.current?.abort();
    setRunning(false);
  };
  const keep = async (setting: Setting) => {
    for (const { clause, name, value } of setting.values)
      await channel.edit({ op: "set", clause, name, value });
    viewing.getState().set({ active: setting.values[0]!.clause });
    navigate(`/p/${project}`);
  };

  const told = inCommon(settings).slice(0, TOLD);
  if (!one)
    return (
      <main className="p-8">
        <p className="font-serif text-lg">There is no number to vary yet.</p>
        <p className="text-soft">
          Write a few clauses on the Workbench first; any number in them can be tried here.
        </p>
      </main>
    );
  return (
    <main className="flex min-h-0 flex-col" aria-label="Contact sheet">
      <form
        className="flex flex-wrap items-end gap-x-6 gap-y-2 border-b border-rule bg-leaf px-4 py-2"
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <RangeFields title="Vary" range={one} variables={variables} onChange={setFirst} />
        {second ? (
          <>
            <RangeFields
              title="and down the sheet"
              range={second}
              variables={variables}
              onChange={setSecond}
            />
            <Button tone="quiet" onClick={() => setSecond(null)}>
              Only one value
            </Button>
          </>
        ) : (
          <Button
            tone="quiet"
            disabled={variables.length < 2}
            onClick={() =>
              setSecond({
                ...rangeOf(variables.find((v) => v.id !== `${one.clause}/${one.name}`)!),
                count: 3,
              })
            }
          >
            A second value
          </Button>
        )}
        {running ? (
          <Button onClick={halt}>Stop</Button>
        ) : (
          <Button tone="live" type="submit">
            Make the sheet
          </Button>
        )}
        {running && (
          <span className="flex items-center gap-2 text-sm text-soft" role="status">
            <ProgressBar share={done / Math.max(settings.length, 1)} className="w-32" /> {done} of{" "}
            {settings.length}
          </span>
        )}
      </form>
      <div
        className="grow overflow-y-auto p-4"
        data-testid="contact-sheet"
        data-done={!running && settings.length > 0}
      >
        {settings.length === 0 && (
          <p className="text-soft">
            Each picture shows the last net, or shape, as it would be. Nothing changes until one of them is
            kept.
          </p>
        )}
        <div
          className="grid gap-x-5 gap-y-4"
          style={{
            gridTemplateColumns: `repeat(${second ? one.count : "auto-fill"}, minmax(${second ? "8rem" : "13rem"}, 1fr))`,
          }}
        >
          {settings.map((s, k) => (
            <Card key={k} setting={s} told={told} onKeep={() => void keep(s)} />
          ))}
        </div>
      </div>
    </main>
  );
}

function Card({ setting, told, onKeep }: { setting: Setting; told: string[]; onKeep: () => void }) {
  const title = setting.values
    .map((v) => `${v.label} ${figureText(v.value, v.unit, v.value % 1 ? 2 : 0)}`)
    .join(", ");
  const figures = (setting.figures ?? []).filter((f) => told.includes(f.name));
  return (
    <article
      className="border-t border-rule pt-2"
      data-setting={setting.values.map((v) => v.value).join(",")}
    >
      {setting.picture ? (
        <img
          src={`data:image/png;base64,${setting.picture}`}
          alt={`The net at ${title}`}
          className="w-full bg-ground"
        />
      ) : (
        <div className="flex aspect-[8/5] items-center justify-center bg-ground p-2 text-center text-[13px] text-soft">
          {setting.error ?? "…"}
        </div>
      )}
      <div className="mt-1 flex items-baseline justify-between gap-2">
        <h2 className="font-serif text-[16px]">{title}</h2>
        <Button disabled={!setting.picture} onClick={onKeep} aria-label={`Keep ${title}`}>
          Keep
        </Button>
      </div>
      <dl className="text-[13px]">
        {figures.map((f) => (
          <div key={f.name} className="flex justify-between gap-2">
            <dt className="text-soft">{f.label}</dt>
            <dd>{figureText(f.value, f.unit, f.decimals)}</dd>
          </div>
        ))}
      </dl>
    </article>
  );
}

function RangeFields({
  title,
  range,
  variables,
  onChange,
}: {
  title: string;
  range: Range;
  variables: Variable[];
  onChange: (r: Range) => void;
}) {
  const field = (name: "from" | "to" | "count", label: string) => (
    <label className="flex flex-col text-[13px] text-soft">
      {label}
      <input
        type="number"
        step="any"
        className="w-20 rounded-sm border border-rule bg-field px-1.5 py-0.5 text-ink"
        value={range[name]}
        min={name === "count" ? 1 : undefined}
        max={name === "count" ? MOST : undefined}
        onChange={(e) => onChange({ ...range, [name]: Number(e.target.value) })}
      />
    </label>
  );
  return (
    <fieldset className="flex items-end gap-2">
      <label className="flex flex-col text-[13px] text-soft">
        {title}
        <select
          className="max-w-64 rounded-sm border border-rule bg-field px-1.5 py-1 text-ink"
          value={`${range.clause}/${range.name}`}
          onChange={(e) => onChange(rangeOf(variables.find((v) => v.id === e.target.value)!))}
        >
          {variables.map((v) => (
            <option key={v.id} value={v.id}>
              {v.kind.title}: {v.spec.label}
              {v.spec.unit && ` in ${v.spec.unit}`}
            </option>
          ))}
        </select>
      </label>
      {field("from", "from")}
      {field("to", "to")}
      {field("count", "pictures")}
    </fieldset>
  );
}

/** The plain numbers that sentences show now. */
function numbersOf(clauses: ClauseEntry[], kinds: ClauseKind[]): Variable[] {
  return clauses
    .filter((c) => !c.off)
    .flatMap((clause) => {
      const kind = kinds.find((k) => k.kind === clause.kind);
      if (!kind || !["Shape", "Lattice"].includes(kind.chapter)) return [];
      return segmentsOf(clause, kind)
        .filter((s) => s.value)
        .map((s) => kind.values.find((v) => v.name === s.value)!)
        .filter((v) => (v.kind === "number" || v.kind === "count") && typeof valueIn(clause, v) === "number")
        .map((spec) => ({ id: `${clause.id}/${spec.name}`, clause, kind, spec }));
    });
}

/** Of the last clause that lays a pattern its seed, or else its first number. */
function favourite(variables: Variable[]): Variable | undefined {
  const lattice = variables.filter((v) => v.kind.chapter === "Lattice");
  return lattice.find((v) => v.spec.name === "seed") ?? lattice[0] ?? variables[0];
}

/** A range about the present value, within its limits. */
function rangeOf({ clause, spec }: Variable): Range {
  const now = valueIn(clause, spec) as number;
  const whole = spec.kind === "count";
  const least = spec.least ?? Number.NEGATIVE_INFINITY;
  const most = spec.most ?? Number.POSITIVE_INFINITY;
  if (spec.name === "seed") return { clause: clause.id, name: spec.name, from: 1, to: 12, count: 12 };
  const reach = Math.max(Math.abs(now) * 0.5, (spec.step ?? 1) * 4);
  const tidy = (x: number) => (whole ? Math.round(x) : Number(x.toPrecision(3)));
  const from = Math.max(least, tidy(now - reach));
  const to = Math.min(most, tidy(now + reach));
  return { clause: clause.id, name: spec.name, from, to, count: whole ? Math.min(8, to - from + 1) : 8 };
}

function stepsOf(range: Range, variables: Variable[]): Setting["values"] {
  const spec = variables.find((v) => v.id === `${range.clause}/${range.name}`)?.spec;
  const count = Math.min(MOST, Math.max(1, Math.round(range.count)));
  const all = Array.from(
    { length: count },
    (_, k) => range.from + ((range.to - range.from) * k) / Math.max(count - 1, 1),
  );
  const values = all.map((x) => (spec?.kind === "count" ? Math.round(x) : Number(x.toPrecision(6))));
  return [...new Set(values)].map((value) => ({
    clause: range.clause,
    name: range.name,
    value,
    label: spec?.label ?? range.name,
    unit: spec?.unit ?? "",
  }));
}

function settingsOf(one: Range, two: Range | null, variables: Variable[]): Setting[] {
  const across = stepsOf(one, variables);
  if (!two) return across.map((v) => ({ values: [v] }));
  return stepsOf(two, variables)
    .flatMap((b) => across.map((a) => ({ values: [a, b] })))
    .slice(0, MOST * 4);
}

async function tried(
  project: string,
  setting: Setting,
  number: number,
  signal: AbortSignal,
): Promise<Setting> {
  const values = setting.values.map(({ clause, name, value }) => ({
    op: "set" as const,
    clause,
    name,
    value,
  }));
  try {
    const found = await answered(
      api.POST("/api/projects/{project}/settings", {
        params: { path: { project } },
        body: { values, number },
        signal,
      }),
    );
    return { ...setting, figures: found.figures as Figure[], picture: found.picture };
  } catch (error) {
    return { ...setting, error: error instanceof Error ? error.message : String(error) };
  }
}
