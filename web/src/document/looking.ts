// Asking the server what the document means, after every edit.
import { isNotSignedIn } from "../api/client";
import { latest } from "../api/latest";
import { askOnLine } from "../api/line";
import type { Evaluation, EvaluationDelta, Exercise, Span } from "../api/types";
import { shownCase } from "./cases";
import { asking, rememberDocument } from "./sending";
import { useExercise } from "./store";

interface Question {
  id: number;
  document: Exercise;
  inside: string | null;
  compared: boolean;
  shown: string;
}

/** Follow the open exercise with looks until the returned function is called. */
export function keepLooking(): () => void {
  let last: Question | null = null;
  const line = latest<Question, { mark: string; look: Evaluation }>({
    ask: ({ document, inside, compared, shown }) =>
      asking(document, async (sent, since) => {
        const body = { ...sent, inside: inside ?? "", compared, case: shown };
        const told = await askOnLine("look", body);
        return { mark: told.mark, look: putTogether(told, told.since ? since?.look : null) };
      }),
    answered: ({ id, document, inside }, { mark, look }) => {
      rememberDocument({ mark, document, look });
      if (useExercise.getState().id === id) useExercise.getState().seen(look, document, inside);
    },
    refused: (question, error) => behind(question, error, () => line.want(question)),
    unanswered: (question, error) => behind(question, error),
  });
  const lookAgain = () => {
    const { document, id, inside, comparing: compared } = useExercise.getState();
    const shown = shownCase(useExercise.getState());
    const isKnownAlready =
      last?.document === document &&
      last.inside === inside &&
      last.shown === shown &&
      (last.compared || !compared);
    if (!id || isKnownAlready) return;
    last = { id, document, inside, compared, shown };
    line.want(last);
  };
  const leave = useExercise.subscribe(lookAgain);
  lookAgain();
  return () => {
    line.stop();
    leave();
  };
}

/** The drawing goes on with the look it has, and says so. */
function behind({ id }: Question, error: Error, again: (() => void) | null = null): void {
  const { message } = error;
  const told = { message, again, isNotSignedIn: isNotSignedIn(error) };
  if (useExercise.getState().id === id) useExercise.getState().unseen(told);
}

/** The whole look; what is as before keeps its identity, so that nothing is drawn anew for it. */
export function putTogether(
  told: EvaluationDelta,
  before: Evaluation | null | undefined,
): Evaluation {
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
    runs: entries(told.runs, before?.runs),
    spoken: told.spoken,
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
