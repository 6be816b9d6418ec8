// Asking the server what the document means, after every edit; one question under way at a time.
import { api, ask, Refused } from "../api/client";
import type { Exercise, Look } from "../api/types";
import { useExercise } from "./store";

const RETRY = 2_000; // ms between tries while the server does not answer

/** Follow the open exercise with looks until the returned function is called. */
export function keepLooking(): () => void {
  let underWay = false;
  let lookedAt: Exercise | null = null;
  let lookedInside: string | null = null;
  let stopped = false;
  let retry: ReturnType<typeof setTimeout> | undefined;

  const look = async () => {
    const { document, id, inside } = useExercise.getState();
    const known = document === lookedAt && inside === lookedInside;
    if (underWay || stopped || !id || known) return;
    underWay = true;
    try {
      const seen = await ask<Look>(
        api.POST("/api/look", {
          body: document,
          params: { query: { inside: inside ?? "" } },
        }),
      );
      [lookedAt, lookedInside] = [document, inside];
      if (!stopped && useExercise.getState().id === id) useExercise.getState().seen(seen);
    } catch (error) {
      // Saving tells of a server that does not answer; here it is only asked again.
      if (error instanceof Refused) [lookedAt, lookedInside] = [document, inside];
      else {
        clearTimeout(retry);
        retry = setTimeout(() => void look(), RETRY);
      }
      return;
    } finally {
      underWay = false;
    }
    void look();
  };

  const leave = useExercise.subscribe(() => void look());
  void look();
  return () => {
    stopped = true;
    clearTimeout(retry);
    leave();
  };
}
