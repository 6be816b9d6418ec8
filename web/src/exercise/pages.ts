// The stations in the order of work: what each is called, its key, and by which else it is found.
import type { Station } from "../document/address";

export const PAGES: { station: Station; label: string; keys: string; words: string[] }[] = [
  { station: "predict", label: "Predict", keys: "Alt P", words: ["hand", "formula", "working"] },
  { station: "simulate", label: "Simulate", keys: "Alt S", words: ["run", "analysis", "plot"] },
  {
    station: "measure",
    label: "Measure",
    keys: "Alt M",
    words: ["bench", "meter", "oscilloscope", "generator", "record", "response"],
  },
  { station: "compare", label: "Compare", keys: "Alt C", words: ["ledger", "bench", "agree"] },
];
