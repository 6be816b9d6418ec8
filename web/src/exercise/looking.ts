// Asking the server what the document means, after every edit; one question under way at a time.
import { Refused } from "../api/client";
import { askOnLine } from "../api/line";
import type { Exercise, Look, LookSince, Span } from "../api/types";
import { asking, isKnown } from "./sending";
import { useExercise } from "./store";

const RETRY = 2_000; // ms between tries while the server does not answer

/** Follow the open exercise with looks until the returned function is called. */
export function keepLooking(): () => void {
  let underWay = false;
  let lookedAt: Exercise | null = null;
  let lookedInside: string | null = null;
  let lookedCompared = false;
  let stopped = false;
  let retry: ReturnType<typeof setTimeout> | undefined;

  const lookAgain = async () => {
    const { document, id, inside, comparing: compared } = useExercise.getState();
    const known = document === lookedAt && inside === lookedInside && (lookedCompared || !compared);
    if (underWay || stopped || !id || known) return;
    underWay = true;
    try {
      const { mark, look } = await asking(document, async (sent, since) => {
        const body = { ...sent, inside: inside ?? "", compared };
        const told = await askOnLine<LookSince>("/api/look", body);
        return { mark: told.mark, look: putTogether(told, told.since ? since?.look : null) };
      });
      [lookedAt, lookedInside, lookedCompared] = [document, inside, compared];
      isKnown({ mark, document, look });
      if (!stopped && useExercise.getState().id === id) useExercise.getState().seen(look);
    } catch (error) {
      // Saving tells of a server that does not answer; here it is only asked again.
      if (error instanceof Refused)
        [lookedAt, lookedInside, lookedCompared] = [document, inside, compared];
      else {
        clearTimeout(retry);
        retry = setTimeout(() => void lookAgain(), RETRY);
      }
      return;
    } finally {
      underWay = false;
    }
    void lookAgain();
  };

  const leave = useExercise.subscribe(() => void lookAgain());
  void lookAgain();
  return () => {
    stopped = true;
    clearTimeout(retry);
    leave();
  };
}

/** The whole look; what is as before keeps its identity, so that nothing is drawn anew for it. */
export function putTogether(told: LookSince, before: Look | null | undefined): Look {
  return {
    parts: entries(told.parts, before?.parts),
    parameters: entries(told.parameters, before?.parameters),
    blocks: entries(told.blocks, before?.blocks),
    nets: entries(told.nets, before?.nets),
    joints: entries(told.joints, before?.joints),
    findings: entries(told.findings, before?.findings),
    quantities: entries(told.quantities, before?.quantities),
    unsolved: told.unsolved,
    lines: entries(told.lines, before?.lines),
    compared: told.compared,
    ledger: entries(told.ledger, before?.ledger),
  };
}

function entries<Entry>(told: (Span | Entry)[], before: Entry[] = []): Entry[] {
  const [only] = told;
  if (told.length === 1 && isSpan(only) && only.first === 0 && only.end === before.length)
    return before;
  return told.flatMap((entry) => (isSpan(entry) ? before.slice(entry.first, entry.end) : [entry]));
}

const isSpan = (entry: unknown): entry is Span =>
  typeof entry === "object" && entry !== null && "first" in entry && "end" in entry;
