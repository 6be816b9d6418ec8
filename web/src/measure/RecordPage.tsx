// One record: its points over the curves of the run they belong beside, and what can be done with it.
import { Copy, Download, RotateCw, Trash2 } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import type { BenchRecord, Run } from "../api/types";
import { measure, useBench, type WayKey } from "../bench/bench";
import { lookAtCase, nameOfCase, useShownCase } from "../document/cases";
import { newRun } from "../document/runs";
import { useExercise } from "../document/store";
import { BenchReadings, lay } from "../plots/BenchReadings";
import { Curves } from "../plots/Curves";
import type { Made } from "../plots/drawing/Plot";
import { useRunning } from "../plots/running";
import { lookAtRun } from "../plots/runsOf";
import { take } from "../plots/taking";
import { useBeside } from "../plots/useBeside";
import { useMarkers } from "../plots/useMarkers";
import { save } from "../schematic/view/picture";
import { Button, IconButton } from "../ui/Button";
import { when } from "./ReadingsTable";

const BARE = /^(?:abs|dB|arg)\((.*)\)$/;
/** What a column is of, its magnitude and phase taken together. */
const formulaOf = (quantity: string) => BARE.exec(quantity)?.[1] ?? quantity;

export function RecordPage({ record }: { record: BenchRecord }) {
  const runs = useExercise((state) => state.document.runs);
  const rename = (name: string) => change(record.id, (own) => Object.assign(own, { name }), "name");
  const formulas = [...new Set(record.columns.slice(1).map((c) => formulaOf(c.quantity)))];
  const own = useMemo(() => ownRun(record, runs), [record, runs]);
  const shown = useShownCase();
  const caseName = useExercise(({ document }) => nameOfCase(document, record.case));
  const [isCompared, setCompared] = useState(false);
  const count = record.columns[0]?.values.length ?? 0;
  return (
    <section aria-label={record.name} className="mt-2">
      <div className="flex items-center gap-1">
        <input
          aria-label="Name of the record"
          value={record.name}
          maxLength={60}
          spellCheck={false}
          onChange={(event) => rename(event.target.value)}
          className="min-w-0 grow rounded-md border border-transparent py-0.5 font-serif text-xl hover:border-hairline focus:border-accent focus:outline-none"
        />
        {record.recipe && (
          <>
            <Button className="h-8 px-2.5" onClick={() => repeat(record)}>
              <RotateCw size={14} /> Again
            </Button>
            <IconButton
              label="Take its settings"
              className="size-8!"
              onClick={() => takeSettings(record)}
            >
              <Copy size={15} />
            </IconButton>
          </>
        )}
        {count > 0 && (
          <IconButton
            label="Its columns as CSV"
            className="size-8!"
            onClick={() => save(csvOf(record), `${record.name || "record"}.csv`, "text/csv")}
          >
            <Download size={15} />
          </IconButton>
        )}
        <IconButton
          label="Throw this record away"
          className="size-8!"
          onClick={() =>
            useExercise.getState().edit((document) => {
              document.records = document.records.filter(({ id }) => id !== record.id);
              for (const run of document.runs)
                run.without = run.without.filter((id) => id !== record.id);
            })
          }
        >
          <Trash2 size={15} />
        </IconButton>
      </div>
      <p className="text-xs text-soft">
        {count} points
        {record.recipe?.taken && `, taken ${when(record.recipe.taken)}`}
        {record.recipe && ` on ${record.recipe.bench || "the stand-in bench"}`}
        {record.case !== shown && (
          <>
            {", in the case "}
            <button
              type="button"
              className="underline underline-offset-2"
              onClick={() => lookAtCase(record.case)}
            >
              {caseName}
            </button>
          </>
        )}
        {record.note && `. ${record.note[0]?.toUpperCase()}${record.note.slice(1)}`}
        {record.earlier.length > 0 && (
          <>
            {". "}
            <button
              type="button"
              aria-pressed={isCompared}
              className="underline underline-offset-2 aria-pressed:text-accent"
              onClick={() => setCompared(!isCompared)}
            >
              {isCompared ? "Without what it was before" : "Beside what it was before"}
            </button>
            {" or "}
            <button
              type="button"
              className="underline underline-offset-2"
              onClick={() => back(record)}
            >
              back to that
            </button>
          </>
        )}
      </p>
      {count > 1 && own && (
        <Beside
          key={`${own.run.id} ${formulas.join()}`}
          record={record}
          run={own.run}
          isOwn={own.isOwn}
          before={isCompared && record.earlier.length ? record.id : ""}
        />
      )}
    </section>
  );
}

/** The run whose axis it fits: one that shows the same, else one of the bench's own. */
function ownRun(record: BenchRecord, runs: Run[]): { run: Run; isOwn: boolean } | null {
  const [first] = record.columns;
  if (!first) return null;
  const formulas = [...new Set(record.columns.slice(1).map((c) => formulaOf(c.quantity)))];
  const analysis = { t: "transient", f: "frequency_sweep" }[first.quantity] ?? "dc_sweep";
  const fitting = runs.filter(
    (run) =>
      run.analysis === analysis &&
      formulas.some((formula) => run.show.includes(formula)) &&
      (analysis !== "dc_sweep" || (run.settings.subject ?? first.quantity) === first.quantity),
  );
  const { begin } = begins(record);
  const known =
    fitting.find((run) => !run.without.includes(record.id) && run.settings.begin === begin) ??
    fitting.find((run) => !run.without.includes(record.id)) ??
    fitting[0];
  if (known) return { run: known, isOwn: false };
  const [low, high] = rangeOf(record);
  const settings: Record<string, string> =
    analysis === "frequency_sweep"
      ? { from: low, to: high }
      : analysis === "dc_sweep"
        ? { subject: first.quantity, from: low, to: high }
        : { stop: spanOf(first.values), ...begins(record) };
  const run = { ...newRun(`bench ${record.id}`, record.name, analysis), settings, show: formulas };
  return { run, isOwn: true };
}

/** From where to where it goes, or shall go: while it comes in, the run beside it stays as it is. */
function rangeOf({ columns: [first], recipe }: BenchRecord): [string, string] {
  const { from, to } = recipe?.settings ?? {};
  if (from && to) return [from, to];
  const values = first?.values ?? [];
  return [`${Math.min(...values)} ${first?.unit}`, `${Math.max(...values)} ${first?.unit}`];
}

const spanOf = (times: number[]) => `${((times.at(-1) ?? 0) - (times[0] ?? 0)).toPrecision(3)} s`;

/** A record of what runs on is laid over what has settled. */
const begins = (record: BenchRecord): Record<string, string> =>
  record.recipe?.settings.begins === "running" && record.recipe.way === "record"
    ? { begin: "settled" }
    : {};

interface BesideProps {
  record: BenchRecord;
  run: Run;
  isOwn: boolean;
  /** The record, where it shall stand as it was before it was taken again too. */
  before: string;
}

function Beside({ record, run, isOwn, before }: BesideProps) {
  const { result, shown, again, trouble } = useRunning(run, isOwn);
  // Only this record stands here; with others it is seen in the run.
  const others = useExercise((state) => state.document.records);
  const alone = useMemo(
    () => ({ ...run, without: others.map(({ id }) => id).filter((id) => id !== record.id) }),
    [run, others, record.id],
  );
  const beside = useBeside(alone, shown, again, true, before);
  const markers = useMarkers(run, shown, again);
  const plots = useRef(new Map<string, Made>());
  const toLay = useBench((state) => state.toLay);
  const formula = beside?.curves.find((curve) => run.show.includes(curve.text))?.text;
  useEffect(() => {
    if (toLay !== record.id || !shown?.result || !formula || shown.axis !== "t") return;
    useBench.setState({ toLay: null });
    void lay(shown, record.id, formula, "trigger");
  }, [toLay, record.id, shown, formula]);
  const problem = trouble ?? result?.problem;
  const only = beside && {
    ...beside,
    offered: beside.offered.filter(({ id }) => [record.id, `${record.id} before`].includes(id)),
  };
  return (
    <div className="mt-2">
      {problem && (
        <p role="alert" className="text-sm text-fault">
          The simulation beside it: {problem}
        </p>
      )}
      {shown && shown.curves.length > 0 && (
        <Curves
          run={run}
          readings={[]}
          look={shown}
          ghost={null}
          plots={plots}
          markers={markers}
          beside={only}
          onTake={(figure) => take(figure, run, shown)}
        />
      )}
      {shown && (
        <BenchReadings
          run={run}
          look={shown}
          beside={only}
          onTake={(figure) => take(figure, run, shown)}
        />
      )}
      {!isOwn && (
        <p className="mt-2 text-sm">
          <button
            type="button"
            className="text-accent underline underline-offset-2"
            onClick={() => lookAtRun(run.id)}
          >
            Open the run {run.name}
          </button>
        </p>
      )}
    </div>
  );
}

function change(id: string, to: (record: BenchRecord) => void, group: string): void {
  useExercise.getState().edit((document) => {
    const own = document.records.find((each) => each.id === id);
    if (own) to(own);
  }, `record ${group} ${id}`);
}

/** As RFC 4180 has it; a column of uncertainties behind what has one for each value. */
function csvOf({ columns }: BenchRecord): string {
  const quoted = (text: string) => (/[",]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const head = columns.flatMap(({ quantity, unit, uncertainties }) => [
    quoted(unit ? `${quantity} [${unit}]` : quantity),
    ...(uncertainties.length ? [quoted(`± ${quantity}`)] : []),
  ]);
  const rows = (columns[0]?.values ?? []).map((_, k) =>
    columns
      .flatMap(({ values, uncertainties }) => [
        values[k],
        ...(uncertainties.length ? [uncertainties[k]] : []),
      ])
      .join(),
  );
  return `${[head.join(), ...rows].join("\r\n")}\r\n`;
}

/** Exchange what it holds for what it held before. */
function back(record: BenchRecord): void {
  change(
    record.id,
    (own) => {
      const [before, ...older] = own.earlier;
      if (!before) return;
      own.earlier = [...older, own.columns];
      own.columns = before;
    },
    "earlier",
  );
}

function takeSettings({ recipe }: BenchRecord): void {
  if (!recipe) return;
  const way = recipe.way as WayKey;
  const { settings } = useBench.getState();
  useBench.setState({
    way,
    bench: recipe.bench,
    settings: { ...settings, [way]: recipe.settings },
  });
}

/** Take it again as it was taken. */
function repeat({ recipe, name, id, case: own }: BenchRecord): void {
  if (!recipe) return;
  lookAtCase(own);
  useBench.setState({ way: recipe.way as WayKey });
  void measure(recipe, () => name, id);
}
