// What is done to an exercise as a whole.
import { api, ask } from "../api/client";
import type { Opened } from "../api/types";
import { useExercise } from "../document/store";
import { say } from "../ui/Toasts";

/** A copy in the notebook; `go` leads there. */
export async function duplicateExercise(go: (address: string) => void): Promise<void> {
  try {
    const path = { identity: useExercise.getState().id };
    const copy = await ask<Opened>(
      api.POST("/api/exercises/{identity}/duplicate", { params: { path } }),
    );
    go(`/exercises/${copy.id}`);
  } catch (error) {
    say((error as Error).message);
  }
}

export const downloadAs = (form: "file" | "netlist"): void =>
  window.location.assign(`/api/exercises/${useExercise.getState().id}/${form}`);
