// A run with nothing chosen yet: its analysis proposes the rest.
import type { Run } from "../api/types";

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
  case: "",
});
