// Simulate: runs kept by name, each with its recipe above and its result below.
import { useQuery } from "@tanstack/react-query";
import { Copy, Download, Plus, RotateCw, Trash2 } from "lucide-react";
import { useState } from "react";
import { api, ask } from "../api/client";
import type { Analysis, Run } from "../api/types";
import { useExercise } from "../exercise/store";
import { save } from "../schematic/picture";
import { freshId } from "../schematic/wires";
import { Button, IconButton } from "../ui/Button";
import { Menu, MenuItem } from "../ui/Menu";
import { Pill } from "../ui/Pill";
import { say } from "../ui/Toasts";
import { Curves } from "./Curves";
import { changeRun, Settings, Shown } from "./Recipe";
import { useRunning } from "./running";
import { Bars, Formulas, Tables } from "./Tables";

export function Simulate() {
  const runs = useExercise((state) => state.document.runs);
  const [chosen, setChosen] = useState<string | null>(null);
  const { data: analyses } = useQuery({
    queryKey: ["analyses"],
    queryFn: () => ask<Analysis[]>(api.GET("/api/analyses")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!analyses) return null;
  const run = runs.find((candidate) => candidate.id === chosen) ?? runs[0];
  const analysis = analyses.find((candidate) => candidate.key === run?.analysis);

  const begin = (of: Analysis, like?: Run) => {
    const id = freshId("r", runs);
    const same = runs.filter((other) => other.analysis === of.key).length;
    const name = same ? `${of.label} ${same + 1}` : of.label;
    useExercise.getState().edit((document) => {
      const recipe = like
        ? { settings: like.settings, show: like.show }
        : { settings: {}, show: [] };
      document.runs.push({ id, name, analysis: of.key, ...recipe });
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
                className="w-full rounded-lg border border-hairline bg-raised px-4 py-3 text-left hover:border-accent"
              >
                <span className="block font-serif text-lg">{each.label}</span>
                <span className="text-sm text-soft">{each.answers}</span>
              </button>
            </li>
          ))}
        </ul>
      </div>
    );
  return (
    <div className="mx-auto max-w-5xl px-6 py-4">
      <div className="flex items-center gap-1">
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
        <RunPage key={run.id} run={run} analysis={analysis} />
      ) : (
        <p className="mt-4 text-fault">This run is of an analysis that is not known here.</p>
      )}
    </div>
  );
}

/** The curves with all their points, as a file. */
async function download(run: Run): Promise<void> {
  const body = { document: useExercise.getState().document, run: run.id };
  try {
    const text = await ask<string>(api.POST("/api/run/csv", { body, parseAs: "text" }));
    save(text, `${run.name || "run"}.csv`, "text/csv");
  } catch (error) {
    say((error as Error).message);
  }
}

function RunPage({ run, analysis }: { run: Run; analysis: Analysis }) {
  const { result, shown, ghost, busy, outOfDate, trouble, again, dismissGhost } = useRunning(run);
  const problem = trouble ?? result?.problem;
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
      {result?.notes.map((note) => (
        <p key={note} className="mt-2 text-xs text-soft">
          {note}
        </p>
      ))}
      {shown && (
        <div className={`mt-4 ${problem || outOfDate ? "opacity-55" : ""}`}>
          {ghost && shown.curves.length > 0 && (
            <p className="mb-1 flex items-center gap-2 text-xs text-soft">
              Faint: before the change.
              <Pill onClick={dismissGhost}>Dismiss</Pill>
            </p>
          )}
          {shown.curves.length > 0 && <Curves look={shown} ghost={ghost} />}
          {shown.curves.length > 0 && (
            <Button className="float-right mt-2" onClick={() => void download(run)}>
              <Download size={16} /> CSV
            </Button>
          )}
          <Bars bars={shown.bars} />
          <Tables tables={shown.tables} />
          <Formulas formulas={shown.formulas} />
        </div>
      )}
      {!shown && busy && <p className="mt-6 text-soft">Working it out …</p>}
    </section>
  );
}
