// The runs of the open exercise: which one is looked at, and new ones begun.
import { create } from "zustand";
import type { Analysis, Run } from "../api/types";
import { turnTo } from "../document/address";
import { newRun } from "../document/runs";
import { useExercise } from "../document/store";
import { freshId } from "../schematic/model/wires";

export const useChosenRun = create<{ id: string | null }>()(() => ({ id: null }));

export function lookAtRun(id: string): void {
  useChosenRun.setState({ id });
  turnTo("simulate");
}

/** A run of an analysis, with the recipe of another where one is given. */
export function beginRun(
  of: Pick<Analysis, "key" | "label">,
  like?: Pick<Run, "settings" | "show" | "reads">,
): void {
  const { document, edit } = useExercise.getState();
  const id = freshId("r", document.runs);
  const same = document.runs.filter((other) => other.analysis === of.key).length;
  const recipe = like && { settings: like.settings, show: like.show, reads: like.reads };
  edit((draft) => {
    draft.runs.push({
      ...newRun(id, same ? `${of.label} ${same + 1}` : of.label, of.key),
      ...recipe,
    });
  });
  lookAtRun(id);
}
