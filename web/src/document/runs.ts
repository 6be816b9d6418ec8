// A run as it begins, and what its markers are called.
import type { Run } from "../api/types";

export const LETTERS = "AB";

/** With nothing chosen yet: its analysis proposes the rest. */
export const newRun = (id: string, name: string, analysis: string): Run => ({
  id,
  name,
  analysis,
  settings: {},
  show: [],
  reads: [],
  notes: [],
  markers: [],
  plots: [],
  aside: [],
  without: [],
  case: "",
});
