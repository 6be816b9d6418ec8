// Simulate: runs kept by name, each with its recipe above and its result below.
import {
  ArrowLeft,
  ArrowRight,
  Copy,
  Download,
  Plus,
  Printer,
  RotateCw,
  Square,
  Trash2,
} from "lucide-react";
import { useCallback, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { isForgotten } from "../api/client";
import { askOnLine } from "../api/line";
import { useAnalyses, useExports } from "../api/offered";
import type { Analysis, Run, RunLook } from "../api/types";
import { useExercise } from "../document/store";
import { BenchReadings } from "../plots/BenchReadings";
import { Curves } from "../plots/Curves";
import { changeRun } from "../plots/changeRun";
import type { Made } from "../plots/drawing/Plot";
import { svgOfFigure, svgOfPlots } from "../plots/drawing/plotPicture";
import { Arrows, Roots } from "../plots/Plane";
import { readoutOf } from "../plots/readout";
import { useRunning } from "../plots/running";
import { beginRun, lookAtRun, useChosenRun } from "../plots/runsOf";
import { type Takeable, take } from "../plots/taking";
import { useBeside } from "../plots/useBeside";
import { useMarkers } from "../plots/useMarkers";
import { pngOf, save, sheetPicture } from "../schematic/view/picture";
import { Button, IconButton } from "../ui/Button";
import { Menu, MenuItem, MenuLine } from "../ui/Menu";
import { Pill } from "../ui/Pill";
import { say } from "../ui/Toasts";
import { Settings, Shown } from "./Recipe";
import { headOf, svgOfRun } from "./runPicture";
import { Bars, Formulas, Tables } from "./Tables";

export function Simulate() {
  const runs = useExercise((state) => state.document.runs);
  const chosen = useChosenRun((state) => state.id);
  const { data: analyses, error } = useAnalyses();
  if (error) return <p className="p-6 text-fault">{error.message}</p>;
  if (!analyses) return null;
  const run = runs.find((candidate) => candidate.id === chosen) ?? runs[0];
  const analysis = analyses.find((candidate) => candidate.key === run?.analysis);

  if (!run)
    return (
      <div className="mx-auto max-w-3xl px-6 py-5">
        <h2 className="font-serif text-xl">What do you want to know about the circuit?</h2>
        <p className="mt-1 max-w-prose text-soft">
          Each run proposes its range from the circuit, and is repeated after every edit.
        </p>
        <ul className="mt-4 grid grid-cols-2 gap-2">
          {analyses.map((each) => (
            <li key={each.key}>
              <button
                type="button"
                onClick={() => beginRun(each)}
                className="flex h-full w-full flex-col rounded-lg border border-hairline bg-raised px-4 py-3 text-left hover:border-accent"
              >
                <span className="font-serif text-lg">{each.label}</span>
                <span className="text-sm text-soft">{each.answers}</span>
              </button>
            </li>
          ))}
        </ul>
      </div>
    );
  return (
    <div className="mx-auto max-w-5xl px-6 py-4">
      <div className="sticky top-0 z-5 -mx-6 -mt-4 flex items-center gap-1 bg-paper px-6 pt-3 pb-1.5">
        <ul aria-label="Runs" className="flex min-w-0 grow flex-wrap gap-1">
          {runs.map((each) => (
            <li key={each.id}>
              <button
                type="button"
                aria-current={each === run}
                onClick={() => lookAtRun(each.id)}
                className="rounded-md px-2.5 py-1 text-sm text-soft hover:bg-ruling aria-[current=true]:bg-accent-wash aria-[current=true]:font-medium aria-[current=true]:text-accent"
              >
                {each.name}
              </button>
            </li>
          ))}
        </ul>
        <Menu
          trigger={
            <Button look="quiet" className="h-8 px-2">
              <Plus size={16} /> Run
            </Button>
          }
        >
          {analyses.map((each) => (
            <MenuItem key={each.key} onSelect={() => beginRun(each)}>
              {each.label}
            </MenuItem>
          ))}
        </Menu>
        {runs.length > 1 && (
          <>
            <IconButton
              label="Move this run left"
              disabled={runs[0] === run}
              onClick={() => shift(run.id, -1)}
              className="size-8!"
            >
              <ArrowLeft size={16} />
            </IconButton>
            <IconButton
              label="Move this run right"
              disabled={runs.at(-1) === run}
              onClick={() => shift(run.id, 1)}
              className="size-8!"
            >
              <ArrowRight size={16} />
            </IconButton>
          </>
        )}
        <IconButton
          label="Duplicate this run"
          onClick={() => analysis && beginRun(analysis, run)}
          className="size-8!"
        >
          <Copy size={16} />
        </IconButton>
        <IconButton
          label="Remove this run"
          onClick={() =>
            useExercise.getState().edit((document) => {
              document.runs = document.runs.filter((other) => other.id !== run.id);
            })
          }
          className="size-8!"
        >
          <Trash2 size={16} />
        </IconButton>
      </div>
      {analysis ? (
        <RunPage
          key={run.id}
          run={run}
          analysis={analysis}
          onDraw={(show) => {
            const sweep = analyses.find((each) => each.key === "frequency_sweep");
            if (sweep) beginRun(sweep, { settings: {}, show, reads: [] });
          }}
        />
      ) : (
        <p className="mt-4 text-fault">The analysis of this run is not known here.</p>
      )}
    </div>
  );
}

/** One place forward or back among the runs. */
function shift(id: string, by: -1 | 1): void {
  useExercise.getState().edit((document) => {
    const from = document.runs.findIndex((run) => run.id === id);
    const [run] = document.runs.splice(from, 1);
    if (run) document.runs.splice(from + by, 0, run);
  });
}

/** The curves with all their points, and the readings and tables, as a file. */
async function download(run: Run, { result }: RunLook, form: string): Promise<void> {
  try {
    const content = await askOnLine("file", { result, form });
    save(content, `${run.name || "run"}.${form}`, "application/octet-stream");
  } catch (error) {
    const forgotten = "Run it again first.";
    say(isForgotten(error) ? forgotten : (error as Error).message);
  }
}

interface RunPageProps {
  run: Run;
  analysis: Analysis;
  /** Begins a frequency sweep of these formulas. */
  onDraw(show: string[]): void;
}

function RunPage({ run, analysis, onDraw }: RunPageProps) {
  const running = useRunning(run);
  const { result, shown, ghost, busy, share, outOfDate, trouble, again, dismissGhost } = running;
  const plots = useRef(new Map<string, Made>());
  const results = useRef<HTMLDivElement>(null);
  const problem = trouble ?? result?.problem;
  const onTake = useCallback((figure: Takeable) => shown && take(figure, run, shown), [run, shown]);
  const markers = useMarkers(run, shown, again);
  const beside = useBeside(run, shown, again);
  const exports = useExports();
  const [circuit, setCircuit] = useState<string | null>(null);
  const pictured = () => {
    const own = [...(results.current?.querySelectorAll<SVGSVGElement>("svg[role=img]") ?? [])];
    return svgOfRun({
      exercise: useExercise.getState().document,
      run: run.name,
      conditions: shown?.conditions ?? "",
      circuit: sheetPicture(),
      pictures: [
        ...(plots.current.size ? [svgOfPlots([...plots.current.values()], markers.marks)] : []),
        ...own.map(svgOfFigure),
      ],
      readout: shown ? readoutOf(shown, markers) : [],
    });
  };
  const draw = async (as: "svg" | "png") => {
    const svg = pictured();
    save(as === "svg" ? svg : await pngOf(svg), `${run.name || "run"}.${as}`, `image/${as}`);
  };
  // On paper the circuit stands above; it is taken along for as long as that takes.
  const print = () => {
    flushSync(() => setCircuit(sheetPicture()));
    window.print();
    setCircuit(null);
  };
  return (
    <section aria-label={run.name} aria-busy={busy} className="mt-2">
      <input
        aria-label="Name of the run"
        value={run.name}
        maxLength={60}
        spellCheck={false}
        onChange={(event) =>
          changeRun(
            run.id,
            (own) => {
              own.name = event.target.value;
            },
            "name",
          )
        }
        className="w-full rounded-md border border-transparent py-0.5 font-serif text-xl hover:border-hairline focus:border-accent focus:outline-none"
      />
      <Settings run={run} analysis={analysis} look={result} />
      {analysis.has_curves && <Shown run={run} look={result?.shown.length ? result : shown} />}
      {problem && (
        <p role="alert" className="mt-4 rounded-md bg-fault-wash px-3 py-2 text-sm text-fault">
          {problem}
          {shown && result?.problem && " The last result is shown below."}
        </p>
      )}
      {outOfDate && (
        <p className="mt-4 flex items-center gap-2 rounded-md bg-doubt-wash px-3 py-1.5 text-sm text-doubt">
          The circuit or the settings were changed since.
          <Pill onClick={again}>
            <RotateCw size={13} className="mr-1 inline" />
            Run again
          </Pill>
        </p>
      )}
      {share !== null && (
        <p className="mt-4 flex items-center gap-3 text-sm text-soft">
          <progress aria-label="Progress of the run" value={share} className="h-2 w-56" />
          {Math.floor(100 * share)} %
          <Pill onClick={running.cancel}>
            <Square size={11} className="mr-1 inline" />
            Cancel
          </Pill>
        </p>
      )}
      {result?.notes.map((note) => (
        <p key={note} className="mt-2 text-xs text-soft">
          {note}
        </p>
      ))}
      {shown && (
        <div
          ref={results}
          className={`print-alone mt-4 ${problem || outOfDate ? "opacity-55" : ""}`}
        >
          <PrintHead run={run} conditions={shown.conditions} circuit={circuit} />
          {ghost && shown.curves.length > 0 && (
            <p className="mb-1 flex items-center gap-2 text-xs text-soft">
              Faint curves: before the change.
              <Pill onClick={dismissGhost}>Hide</Pill>
            </p>
          )}
          {shown.curves.length > 0 && (
            <Curves
              run={run}
              readings={analysis.readings}
              look={shown}
              ghost={ghost}
              plots={plots}
              markers={markers}
              beside={beside}
              onTake={onTake}
            />
          )}
          <BenchReadings run={run} look={shown} beside={beside} onTake={onTake} />
          <Arrows phasors={shown.phasors} />
          <Roots roots={shown.roots} />
          <Bars bars={shown.bars} />
          <Tables tables={shown.tables} onTake={onTake} />
          <Formulas formulas={shown.formulas} onDraw={onDraw} />
          <div className="mt-3 flex justify-end print:hidden">
            <Menu
              trigger={
                <Button>
                  <Download size={16} /> Export
                </Button>
              }
            >
              {exports.runs
                .filter(({ of_curves }) => !of_curves || shown.curves.length > 0)
                .map(({ form, label }) => (
                  <MenuItem key={form} onSelect={() => void download(run, shown, form)}>
                    {label}
                  </MenuItem>
                ))}
              {(shown.curves.length > 0 || shown.phasors.length > 0 || shown.roots.length > 0) && (
                <>
                  <MenuLine />
                  <MenuItem onSelect={() => void draw("svg")}>Picture, SVG</MenuItem>
                  <MenuItem onSelect={() => void draw("png")}>Picture, PNG</MenuItem>
                </>
              )}
              <MenuLine />
              <MenuItem onSelect={print}>
                <Printer size={14} /> Print
              </MenuItem>
            </Menu>
          </div>
        </div>
      )}
      {!shown && busy && <p className="mt-6 text-soft">Running …</p>}
    </section>
  );
}

interface PrintHeadProps {
  run: Run;
  conditions: string;
  circuit: string | null;
}

/** What stands above a run on paper: whose it is, and the circuit. */
function PrintHead({ run, conditions, circuit }: PrintHeadProps) {
  const document = useExercise((state) => state.document);
  const [name, who] = headOf(document);
  return (
    <header className="hidden print:block">
      <h1 className="font-serif text-2xl">{name}</h1>
      {who && <p>{who}</p>}
      {circuit && (
        <img
          alt="The circuit"
          src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(circuit)}`}
          className="my-3 max-h-[9cm] max-w-full"
        />
      )}
      <h2 className="mt-2 font-serif text-lg">{run.name}</h2>
      <p className="mb-2 text-sm">{conditions}</p>
    </header>
  );
}
