// An edit of one of the document's runs.
import type { Run } from "../api/types";
import { useExercise } from "../document/store";

export function changeRun(id: string, change: (run: Run) => void, group?: string): void {
  useExercise.getState().edit((document) => {
    const run = document.runs.find((candidate) => candidate.id === id);
    if (run) change(run);
  }, group && `run ${id} ${group}`);
}
