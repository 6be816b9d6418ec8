// Asking the server what the document means, after every edit; one question under way at a time.
import { api, ask } from "../api/client";
import type { Exercise, Look } from "../api/types";
import { useExercise } from "./store";

/** Follow the open exercise with looks until the returned function is called. */
export function keepLooking(): () => void {
  let underWay = false;
  let lookedAt: Exercise | null = null;
  let stopped = false;

  const look = async () => {
    const { document, id } = useExercise.getState();
    if (underWay || stopped || !id || document === lookedAt) return;
    underWay = true;
    try {
      const seen = await ask<Look>(api.POST("/api/look", { body: document }));
      lookedAt = document;
      if (!stopped && useExercise.getState().id === id) useExercise.getState().seen(seen);
    } catch {
      // Saving tells of a server that does not answer; the next edit asks again.
      lookedAt = document;
    } finally {
      underWay = false;
    }
    void look();
  };

  const leave = useExercise.subscribe(() => void look());
  void look();
  return () => {
    stopped = true;
    leave();
  };
}
