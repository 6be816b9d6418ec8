// Everything that can be done here, by name and by other words for it.
import { useLocation } from "wouter";
import { useAnalyses } from "../api/offered";
import { useBench, WAYS } from "../bench/bench";
import { turnTo } from "../document/address";
import { undoFurther } from "../document/saving";
import { useExercise } from "../document/store";
import { beginRun, lookAtRun } from "../plots/runsOf";
import type { Layers } from "../schematic/annotations/notes";
import {
  align,
  chooseAll,
  duplicate,
  mirror,
  remove,
  renumber,
  space,
  startPlacingKind,
  startWire,
  take,
  turn,
} from "../schematic/editor/actions";
import { enterBlock, makeBlock } from "../schematic/editor/blocks";
import { useCatalogue } from "../schematic/editor/catalogue";
import { showFiguresOf, sourcesIn } from "../schematic/editor/figures";
import { useEditorStore } from "../schematic/editor/tools";
import { savePicture } from "../schematic/view/picture";
import { usePreferences } from "../ui/theme";
import { downloadAs, duplicateExercise } from "./documentActions";
import { PAGES } from "./pages";
import { openPanel } from "./panels";

export interface Command {
  name: string;
  group: string;
  keys?: string;
  /** By which else it is found. */
  words?: string[];
  run(): void;
}

const LAYERS: [keyof Layers, string][] = [
  ["voltage", "voltages"],
  ["current", "currents"],
  ["power", "powers"],
  ["title", "title block"],
];

/** The ways to measure, by what their instruments are called too. */
const measuring = (): Command[] =>
  WAYS.map(({ key, label, answers }) => ({
    name: `Measure: ${label.toLowerCase()}`,
    group: "Bench",
    words: [answers, "bench", "instrument"],
    run: () => {
      useBench.setState({ way: key });
      turnTo("measure");
    },
  }));

export function useCommands(): Command[] {
  const selection = useSelectionCommands();
  return [
    ...selection,
    ...useGoing(),
    ...useDrawing(),
    ...useRuns(),
    ...measuring(),
    ...useLooks(),
    ...useDocument(),
  ];
}

function useSelectionCommands(): Command[] {
  const catalogue = useCatalogue();
  const isChosen = useEditorStore((state) => state.chosen.size > 0);
  if (!isChosen) return [];
  const group = "Selection";
  return [
    { group, name: "Rotate", keys: "R", words: ["turn"], run: () => turn(catalogue) },
    { group, name: "Mirror", keys: "M", words: ["flip"], run: () => mirror(catalogue) },
    { group, name: "Duplicate", keys: "Ctrl D", words: ["copy"], run: () => duplicate(catalogue) },
    { group, name: "Align in a row", run: () => align("row", catalogue) },
    { group, name: "Align in a column", run: () => align("column", catalogue) },
    { group, name: "Space evenly", words: ["distribute"], run: () => space(catalogue) },
    {
      group,
      name: "Make a block",
      words: ["subcircuit", "group"],
      run: () => void makeBlock(catalogue),
    },
    {
      group,
      name: "Remove",
      keys: "Delete",
      words: ["delete", "erase"],
      run: () => remove(catalogue),
    },
    {
      group,
      name: "Remove and join the wires",
      keys: "Shift Delete",
      words: ["delete"],
      run: () => remove(catalogue, true),
    },
  ];
}

function useGoing(): Command[] {
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
    {
      group,
      name: "Earlier versions",
      words: ["history", "revisions", "restore"],
      run: () => openPanel("revisions"),
    },
    {
      group,
      name: "Title, author, purpose",
      words: ["details", "properties", "group", "number"],
      run: () => openPanel("details"),
    },
    ...(inside ? [{ group, name: "Back to the exercise", run: () => enterBlock(null) }] : []),
  ];
}

function useDrawing(): Command[] {
  const catalogue = useCatalogue();
  const { set } = useEditorStore.getState();
  const group = "Draw";
  return [
    { group, name: "Draw a wire", keys: "W", words: ["connect"], run: () => startWire(null) },
    {
      group,
      name: "Name a node",
      words: ["label", "net", "rename"],
      run: () => take({ kind: "naming" }),
    },
    {
      group,
      name: "Write a note",
      words: ["text", "comment", "annotation"],
      run: () => take({ kind: "noting" }),
    },
    {
      group,
      name: "Type to place",
      keys: "any letter or digit",
      words: ["value", "part"],
      run: () => set({ typed: "" }),
    },
    { group, name: "Select all", keys: "Ctrl A", run: chooseAll },
    {
      group,
      name: "Renumber parts",
      words: ["number", "names", "order"],
      run: () => renumber(catalogue),
    },
    { group, name: "Undo", keys: "Ctrl Z", words: ["back"], run: () => void undoFurther() },
    { group, name: "Redo", keys: "Ctrl Y", run: () => useExercise.getState().redo() },
    ...[...catalogue.values()].map((kind) => ({
      group: "Place",
      name: `Place ${kind.label.toLowerCase()}`,
      words: [...kind.words, kind.purpose, "add", "insert"],
      run: () => startPlacingKind(kind),
    })),
  ];
}

function useRuns(): Command[] {
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

function useLooks(): Command[] {
  const { theme, symbols, set } = usePreferences();
  const { set: setHand, layers } = useEditorStore();
  const runs = useExercise((state) => state.document.runs);
  const group = "View";
  return [
    ...LAYERS.map(([layer, name]) => ({
      group,
      name: `${layers[layer] ? "Hide" : "Show"} ${name}`,
      words: ["drawing", "figures", "values"],
      run: () => setHand({ layers: { ...layers, [layer]: !layers[layer] } }),
    })),
    { group, name: "Figures of the operating point", run: () => showFiguresOf(null) },
    ...sourcesIn(runs).map(({ of, words }) => ({
      group,
      name: `Figures of ${words}`,
      words: ["drawing", "values"],
      run: () => showFiguresOf(of),
    })),
    {
      group,
      name: theme === "dark" ? "Light theme" : "Dark theme",
      words: ["projector", "colours", "night"],
      run: () => set({ theme: theme === "dark" ? "light" : "dark" }),
    },
    {
      group,
      name: symbols === "iec" ? "US symbols" : "IEC symbols",
      words: ["IEEE 315", "IEC 60617", "zigzag", "ANSI"],
      run: () => set({ symbols: symbols === "iec" ? "ieee" : "iec" }),
    },
  ];
}

function useDocument(): Command[] {
  const [, go] = useLocation();
  const title = useExercise((state) => state.document.title);
  const group = "Exercise";
  return [
    {
      group,
      name: "Duplicate the exercise",
      words: ["copy", "save as"],
      run: () => void duplicateExercise(go),
    },
    {
      group,
      name: "Download as a file",
      words: ["export", "save", "JSON"],
      run: () => downloadAs("file"),
    },
    {
      group,
      name: "Download as netlist text",
      words: ["export", "circuit"],
      run: () => downloadAs("netlist"),
    },
    {
      group,
      name: "Picture of the schematic, SVG",
      words: ["export", "image"],
      run: () => void savePicture("svg", title),
    },
    {
      group,
      name: "Picture of the schematic, PNG",
      words: ["export", "image"],
      run: () => void savePicture("png", title),
    },
  ];
}
