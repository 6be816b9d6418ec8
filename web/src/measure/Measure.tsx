// Measure: the bench. A way to measure, what it is told, where its leads go; and what was measured.
import { Pause, Play, Square } from "lucide-react";
import { useEffect, useState } from "react";
import type { LeadLook, PlanLook, Recipe } from "../api/types";
import { goOn, isTable, measure, pause, stop, useBench, WAYS, type WayKey } from "../bench/bench";
import { useExercise } from "../document/store";
import { useEditorStore } from "../schematic/editor/tools";
import { Button } from "../ui/Button";
import { BuildPanel } from "./BuildPanel";
import { FromTable } from "./FromTable";
import { ReadingsTable } from "./ReadingsTable";
import { RecordPage } from "./RecordPage";
import { Settings, useWays } from "./Settings";
import { usePlan } from "./usePlan";

const MARKS: Record<string, string> = {
  red: "+",
  black: "−",
  "channel 1": "1",
  "channel 2": "2",
  generator: "GEN",
  supply: "SUP",
  out: "OUT",
};

export function Measure() {
  const way = useBench((state) => state.way);
  const records = useExercise((state) => state.document.records);
  const measurements = useExercise((state) => state.document.measurements);
  const [isImporting, setImporting] = useState(false);
  const open = (key: WayKey) => useBench.setState({ way: key, record: null, trouble: null });
  const nothing = !records.length && !measurements.some((each) => each.recipe);
  return (
    <div className="mx-auto max-w-5xl px-6 py-4">
      <div className="flex flex-wrap items-center gap-1.5">
        <ul aria-label="Ways to measure" className="flex flex-wrap gap-1">
          {WAYS.map(({ key, label, answers }) => (
            <li key={key}>
              <button
                type="button"
                title={answers}
                aria-pressed={key === way}
                onClick={() => open(key)}
                className="h-8 rounded-md border border-hairline bg-raised px-2.5 text-sm hover:border-accent aria-pressed:border-accent aria-pressed:bg-accent-wash aria-pressed:font-medium aria-pressed:text-accent"
              >
                {label}
              </button>
            </li>
          ))}
        </ul>
        <Button className="h-8! px-2.5 font-normal!" onClick={() => setImporting(true)}>
          Table …
        </Button>
      </div>
      <FromTable open={isImporting} onClose={() => setImporting(false)} />
      {way ? <WayPage key={way} way={way} /> : nothing ? <Nothing onOpen={open} /> : null}
      {(way === "meter" || way === "component") && <ReadingsTable />}
      <RecordsList />
      {!way && <ReadingsTable />}
    </div>
  );
}

function Nothing({ onOpen }: { onOpen(way: WayKey): void }) {
  return (
    <div className="mt-5">
      <h2 className="font-serif text-xl">What do you want to measure?</h2>
      <p className="mt-1 max-w-prose text-soft">
        The circuit stands on a bench, built of real parts: each a little off, as parts are. What
        you measure lands beside what was simulated and worked out.
      </p>
      <ul className="mt-4 grid grid-cols-2 gap-2">
        {WAYS.map(({ key, label, answers }) => (
          <li key={key}>
            <button
              type="button"
              onClick={() => onOpen(key)}
              className="flex h-full w-full flex-col rounded-lg border border-hairline bg-raised px-4 py-3 text-left hover:border-accent"
            >
              <span className="font-serif text-lg">{label}</span>
              <span className="text-sm text-soft">{answers}</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

function WayPage({ way }: { way: WayKey }) {
  const ways = useWays();
  const typed = useBench((state) => state.settings[way]) ?? {};
  const bench = useBench((state) => state.bench);
  const underWay = useBench((state) => state.underWay);
  const isReading = useBench((state) => state.isReading);
  const trouble = useBench((state) => state.trouble);
  const recipe: Recipe = { way, settings: typed, bench, taken: "" };
  const { plan, trouble: noPlan } = usePlan(recipe);
  useClips(plan?.leads ?? []);
  const settings = ways?.find((each) => each.key === way)?.settings;
  if (!settings) return null;
  if (!plan)
    return noPlan ? <p className="mt-4 text-soft">{noPlan}</p> : <p className="mt-4 h-40" />;
  const isBusy = isReading || Boolean(underWay);
  return (
    <section aria-label={WAYS.find(({ key }) => key === way)?.label} className="mt-3">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (!isBusy) void measure(recipe, (meant) => nameOf(recipe, meant));
        }}
      >
        <Settings way={way} settings={settings} typed={typed} plan={plan} />
        <Leads leads={plan.leads} isReal={Boolean(bench)} />
        {(noPlan ?? plan.problem) && (
          <p role="alert" className="mt-2 text-sm text-fault">
            {noPlan ?? plan.problem}
          </p>
        )}
        <div className="mt-3 flex flex-wrap items-center gap-3">
          <Button type="submit" look="solid" disabled={isBusy}>
            {isTable(way) ? "Measure" : "Read"}
          </Button>
          {plan.benches.length > 1 && (
            <label className="flex items-center gap-2 text-xs font-medium text-soft">
              On
              <select
                aria-label="On which bench"
                value={bench || plan.benches[0]}
                onChange={(event) =>
                  useBench.setState({
                    bench: event.target.value === plan.benches[0] ? "" : event.target.value,
                  })
                }
                className="h-8 rounded-md border border-edge bg-paper px-2 text-sm text-ink"
              >
                {plan.benches.map((name) => (
                  <option key={name}>{name}</option>
                ))}
              </select>
            </label>
          )}
          <span className="ml-auto">
            <BuildPanel />
          </span>
          {isReading && <span className="text-sm text-soft">Reading …</span>}
        </div>
      </form>
      {trouble && (
        <p role="alert" className="mt-3 rounded-md bg-fault-wash px-3 py-2 text-sm text-fault">
          {trouble}
        </p>
      )}
      <Progress />
    </section>
  );
}

/** A first name: what was measured, where. */
function nameOf({ way }: Recipe, plan: PlanLook): string {
  const label = WAYS.find(({ key }) => key === way)?.label ?? way;
  const at = (key: string) => {
    const look = plan.settings.find((each) => each.key === key);
    return look?.text || look?.proposed || "";
  };
  const where =
    way === "record" ? [at("at_1"), at("at_2")].filter(Boolean).join(" and ") : at("at");
  return `${label} at ${where}`;
}

function Leads({ leads, isReal }: { leads: LeadLook[]; isReal: boolean }) {
  if (!leads.length) return null;
  return (
    <ol aria-label="Where the leads go" className={`mt-2 text-sm ${isReal ? "" : "text-soft"}`}>
      {leads.map((lead, k) => (
        <li key={`${lead.role} ${lead.node}${lead.part}`} className="inline">
          {isReal && `${k + 1}. `}
          {lead.words}.{" "}
        </li>
      ))}
    </ol>
  );
}

/** The leads as clips on the drawing, while the way is open. */
function useClips(leads: LeadLook[]): void {
  const told = JSON.stringify(leads);
  useEffect(() => {
    const clips = (JSON.parse(told) as LeadLook[]).map((lead) => ({
      role: lead.role,
      mark: MARKS[lead.role] ?? "",
      node: lead.node,
      part: lead.part,
      pin: lead.pin,
    }));
    useEditorStore.getState().set({ clips });
    return () => useEditorStore.getState().set({ clips: [] });
  }, [told]);
}

/** How far a record has come; it can be paused, stopped where it is, and gone on with. */
function Progress() {
  const underWay = useBench((state) => state.underWay);
  if (!underWay || underWay.points.length < 2) {
    if (!underWay?.trouble) return null;
  }
  const { next, points, isRunning, trouble } = underWay;
  return (
    <div className="mt-3 text-sm">
      {trouble && (
        <p role="alert" className="mb-2 rounded-md bg-fault-wash px-3 py-2 text-fault">
          {trouble}
        </p>
      )}
      <p className="flex items-center gap-3 text-soft">
        <progress
          aria-label="Points taken"
          value={next / Math.max(points.length, 1)}
          className="h-2 w-56"
        />
        {next} of {points.length}
        {isRunning ? (
          <Button className="h-8 px-2.5" onClick={pause}>
            <Pause size={14} /> Pause
          </Button>
        ) : (
          <Button className="h-8 px-2.5" onClick={() => void goOn()}>
            <Play size={14} /> Go on
          </Button>
        )}
        <Button className="h-8 px-2.5" onClick={stop}>
          <Square size={12} /> Stop
        </Button>
      </p>
    </div>
  );
}

function RecordsList() {
  const records = useExercise((state) => state.document.records);
  const chosen = useBench((state) => state.record);
  const record = records.find(({ id }) => id === chosen) ?? records.at(-1);
  if (!record) return null;
  return (
    <div className="mt-4 border-t border-hairline pt-3">
      <ul aria-label="Records" className="flex flex-wrap gap-1">
        {records.map((each) => (
          <li key={each.id}>
            <button
              type="button"
              aria-current={each === record}
              onClick={() => useBench.setState({ record: each.id })}
              className="rounded-md px-2.5 py-1 text-sm text-soft hover:bg-ruling aria-[current=true]:bg-accent-wash aria-[current=true]:font-medium aria-[current=true]:text-accent"
            >
              {each.name}
            </button>
          </li>
        ))}
      </ul>
      <RecordPage key={record.id} record={record} />
    </div>
  );
}
