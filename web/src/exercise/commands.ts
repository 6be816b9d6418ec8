// Everything that can be done here, by name and by other words for it.
import { useLocation } from "wouter";
import { useAnalyses } from "../api/offered";
import { useBench, WAYS } from "../bench/bench";
import { turnTo } from "../document/address";
import { useExercise } from "../document/store";
import { beginRun, lookAtRun } from "../plots/runsOf";
import { startPlacingKind } from "../schematic/editor/actions";
import { enterBlock } from "../schematic/editor/blocks";
import { useCatalogue } from "../schematic/editor/catalogue";
import { type SheetCommand, useSheetCommands } from "../schematic/editor/commands";
import { showFiguresOf, sourcesIn } from "../schematic/editor/figures";
import { useEditorStore } from "../schematic/editor/tools";
import type { Command } from "../ui/commands";
import { redo, revisions, undo, useDocumentCommands, useLooks } from "./documentCommands";
import { PAGES } from "./pages";

interface Grouped extends Command {
  group: string;
}

const LAYERS = ["voltage", "current", "power"] as const;

/** The ways to measure, by what their instruments are called too. */
const measuring = (): Grouped[] =>
  WAYS.map(({ key, label, answers }) => ({
    name: `Measure: ${label.toLowerCase()}`,
    group: "Bench",
    words: [answers, "bench", "instrument"],
    run: () => {
      useBench.setState({ way: key });
      turnTo("measure");
    },
  }));

export function useCommands(): Grouped[] {
  const sheet: SheetCommand[] = Object.values(useSheetCommands());
  const isChosen = useEditorStore((state) => state.chosen.size > 0);
  return [
    ...sheet.filter(({ group }) => group === "Selection" && isChosen),
    ...useGoing(),
    ...sheet.filter(({ group }) => group !== "Selection"),
    { group: "Draw", ...undo },
    { group: "Draw", ...redo },
    ...usePlacing(),
    ...useRuns(),
    ...measuring(),
    ...useViews(),
    ...useDocumentCommands().map((command) => ({ ...command, group: "Exercise" })),
  ];
}

function useGoing(): Grouped[] {
  const [, go] = useLocation();
  const inside = useExercise((state) => state.inside);
  const group = "Go to";
  return [
    ...PAGES.map(({ station, label, keys, words }) => ({
      group,
      name: label,
      keys,
      words,
      run: () => turnTo(station),
    })),
    { group, name: "Notebook", words: ["home", "exercises", "close"], run: () => go("/") },
    { group, ...revisions },
    ...(inside ? [{ group, name: "Back to the exercise", run: () => enterBlock(null) }] : []),
  ];
}

function usePlacing(): Grouped[] {
  return [...useCatalogue().values()].map((kind) => ({
    group: "Place",
    name: `Place ${kind.label.toLowerCase()}`,
    words: [...kind.words, kind.purpose, "add", "insert"],
    run: () => startPlacingKind(kind),
  }));
}

function useRuns(): Grouped[] {
  const runs = useExercise((state) => state.document.runs);
  const { data: analyses } = useAnalyses();
  const group = "Simulate";
  return [
    ...runs.map((run) => ({
      group,
      name: `Show ${run.name || "run"}`,
      words: ["run", "result"],
      run: () => lookAtRun(run.id),
    })),
    ...(analyses ?? []).map((analysis) => ({
      group,
      name: `New run: ${analysis.label}`,
      words: [analysis.answers, "analysis", "simulation", ...(WORDS[analysis.key] ?? [])],
      run: () => beginRun(analysis),
    })),
  ];
}

// What else students call the analyses.
const WORDS: Record<string, string[]> = {
  operating_point: ["bias", "DC", "quiescent"],
  dc_sweep: ["characteristic", "curve"],
  phasor: ["AC", "impedance", "complex", "steady state"],
  frequency_sweep: ["Bode", "AC", "response", "Nyquist", "filter"],
  transient: ["time", "waveform", "oscilloscope", "pulse"],
  fourier: ["spectrum", "harmonics", "distortion", "THD"],
  natural: ["poles", "zeros", "time constants", "damping", "eigenvalues"],
  equivalent: ["Thevenin", "Norton", "source resistance"],
  symbolic: ["formula", "symbolic", "H(s)"],
  largest_output: ["clipping", "swing"],
};

function useViews(): Grouped[] {
  const looks = useLooks();
  const { set, layers } = useEditorStore();
  const runs = useExercise((state) => state.document.runs);
  const group = "View";
  return [
    ...LAYERS.map((layer) => ({
      group,
      name: `${layers[layer] ? "Hide" : "Show"} ${layer}s`,
      words: ["drawing", "figures", "values"],
      run: () => set({ layers: { ...layers, [layer]: !layers[layer] } }),
    })),
    { group, name: "Figures of the operating point", run: () => showFiguresOf(null) },
    ...sourcesIn(runs).map(({ of, words }) => ({
      group,
      name: `Figures of ${words}`,
      words: ["drawing", "values"],
      run: () => showFiguresOf(of),
    })),
    ...Object.values(looks).map((command) => ({ group, ...command })),
  ];
}
