// Simulate: runs kept by name, each with its recipe above and its result below.
import { useQuery } from "@tanstack/react-query";
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
import { api, ask, isForgotten } from "../api/client";
import { askOnLine } from "../api/line";
import type { Analysis, Run, RunLook } from "../api/types";
import { newRun } from "../document/runs";
import { useExercise } from "../document/store";
import { freshId } from "../schematic/model/wires";
import { pngOf, save } from "../schematic/view/picture";
import { Button, IconButton } from "../ui/Button";
import { Menu, MenuItem, MenuLine } from "../ui/Menu";
import { Pill } from "../ui/Pill";
import { say } from "../ui/Toasts";
import { Curves } from "./Curves";
import { changeRun } from "./changeRun";
import { Arrows, Roots } from "./Plane";
import type { Made } from "./plot/Plot";
import { svgOfFigure, svgOfPlots } from "./plot/plotPicture";
import { Settings, Shown } from "./Recipe";
import { useRunning } from "./running";
import { Bars, Formulas, Tables } from "./Tables";
import { type Takeable, take } from "./taking";

export function Simulate() {
  const runs = useExercise((state) => state.document.runs);
  const [chosen, setChosen] = useState<string | null>(null);
  const { data: analyses, error } = useQuery({
    queryKey: ["analyses"],
    queryFn: () => ask<Analysis[]>(api.GET("/api/analyses")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (error) return <p className="p-6 text-fault">{error.message}</p>;
  if (!analyses) return null;
  const run = runs.find((candidate) => candidate.id === chosen) ?? runs[0];
  const analysis = analyses.find((candidate) => candidate.key === run?.analysis);

  const begin = (of: Analysis, like?: Pick<Run, "settings" | "show" | "reads">) => {
    const id = freshId("r", runs);
    const same = runs.filter((other) => other.analysis === of.key).length;
    const name = same ? `${of.label} ${same + 1}` : of.label;
    const recipe = like && { settings: like.settings, show: like.show, reads: like.reads };
    useExercise.getState().edit((document) => {
      document.runs.push({ ...newRun(id, name, of.key), ...recipe });
    });
    setChosen(id);
  };
  if (!run)
    return (
      <div className="mx-auto max-w-3xl px-6 py-5">
        <h2 className="font-serif text-xl">What do you want to know of the circuit?</h2>
        <p className="mt-1 max-w-prose text-soft">
          Every run begins with a range proposed from the circuit itself, and follows each edit.
        </p>
        <ul className="mt-4 grid grid-cols-2 gap-2">
          {analyses.map((each) => (
            <li key={each.key}>
              <button
                type="button"
                onClick={() => begin(each)}
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
                onClick={() => setChosen(each.id)}
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
            <MenuItem key={each.key} onSelect={() => begin(each)}>
              {each.label}
            </MenuItem>
          ))}
        </Menu>
        {runs.length > 1 && (
          <>
            <IconButton
              label="Move this run to the front"
              disabled={runs[0] === run}
              onClick={() => shift(run.id, -1)}
              className="size-8!"
            >
              <ArrowLeft size={16} />
            </IconButton>
            <IconButton
              label="Move this run to the back"
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
          onClick={() => analysis && begin(analysis, run)}
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
            if (sweep) begin(sweep, { settings: {}, show, reads: [] });
          }}
        />
      ) : (
        <p className="mt-4 text-fault">This run is of an analysis that is not known here.</p>
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
async function download(run: Run, { result }: RunLook, form: "csv" | "xlsx"): Promise<void> {
  try {
    const content = await askOnLine("file", { result, form });
    save(content, `${run.name || "run"}.${form}`, "application/octet-stream");
  } catch (error) {
    const forgotten = "Let the run be carried out again first.";
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
  const title = `${run.name}: ${shown?.conditions ?? ""}`;
  const pictures = () => {
    const own = [...(results.current?.querySelectorAll<SVGSVGElement>("svg[role=img]") ?? [])];
    return [
      ...(plots.current.size ? [svgOfPlots([...plots.current.values()], title)] : []),
      ...own.map(svgOfFigure),
    ];
  };
  const draw = async (as: "svg" | "png") => {
    for (const svg of pictures())
      save(as === "svg" ? svg : await pngOf(svg), `${run.name || "run"}.${as}`, `image/${as}`);
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
          {shown && result?.problem && " Below is what came before."}
        </p>
      )}
      {outOfDate && (
        <p className="mt-4 flex items-center gap-2 rounded-md bg-doubt-wash px-3 py-1.5 text-sm text-doubt">
          The circuit or the run was changed since.
          <Pill onClick={again}>
            <RotateCw size={13} className="mr-1 inline" />
            Run again
          </Pill>
        </p>
      )}
      {share !== null && (
        <p className="mt-4 flex items-center gap-3 text-sm text-soft">
          <progress aria-label="How far the run has come" value={share} className="h-2 w-56" />
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
          <p className="hidden font-serif print:block">{title}</p>
          {ghost && shown.curves.length > 0 && (
            <p className="mb-1 flex items-center gap-2 text-xs text-soft">
              Faint: before the change.
              <Pill onClick={dismissGhost}>Dismiss</Pill>
            </p>
          )}
          {shown.curves.length > 0 && (
            <Curves
              run={run}
              readings={analysis.readings}
              look={shown}
              ghost={ghost}
              plots={plots}
              again={again}
              onTake={onTake}
            />
          )}
          <Arrows phasors={shown.phasors} />
          <Roots roots={shown.roots} />
          <Bars bars={shown.bars} />
          <Tables tables={shown.tables} onTake={onTake} />
          <Formulas formulas={shown.formulas} onDraw={onDraw} />
          <div className="mt-3 flex justify-end print:hidden">
            <Menu
              trigger={
                <Button>
                  <Download size={16} /> Take out
                </Button>
              }
            >
              {shown.curves.length > 0 && (
                <MenuItem onSelect={() => void download(run, shown, "csv")}>
                  All points, CSV
                </MenuItem>
              )}
              <MenuItem onSelect={() => void download(run, shown, "xlsx")}>Workbook, XLSX</MenuItem>
              {(shown.curves.length > 0 || shown.phasors.length > 0 || shown.roots.length > 0) && (
                <>
                  <MenuLine />
                  <MenuItem onSelect={() => void draw("svg")}>Picture, SVG</MenuItem>
                  <MenuItem onSelect={() => void draw("png")}>Picture, PNG</MenuItem>
                </>
              )}
              <MenuLine />
              <MenuItem onSelect={() => window.print()}>
                <Printer size={14} /> Print
              </MenuItem>
            </Menu>
          </div>
        </div>
      )}
      {!shown && busy && <p className="mt-6 text-soft">Working it out …</p>}
    </section>
  );
}
