// Asking the server for a run: at once after every edit while it is quick, when asked to where it is not.
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Exercise, Run, RunLook } from "../api/types";
import { type Asker, AT_REST, asker } from "../document/asker";
import { shownCase } from "../document/cases";
import { useExercise } from "../document/store";

const QUICK = 1; // s: what takes longer waits to be asked for

export interface Running {
  result: RunLook | null;
  /** The last result that had something to draw: kept in view while a later one fails. */
  shown: RunLook | null;
  /** What it was before the circuit was changed, until dismissed. */
  ghost: RunLook | null;
  busy: boolean;
  /** How much of a run that takes its time is done, 0 to 1. */
  share: number | null;
  outOfDate: boolean;
  trouble: string | null;
  again(): void;
  cancel(): void;
  dismissGhost(): void;
}

const hasSomething = (look: RunLook) =>
  look.curves.length + look.tables.length + look.formulas.length > 0;

/** What decides what a run comes to, beside the circuit. */
function recipeOf(document: Exercise, id: string): string {
  const run = document.runs.find((candidate) => candidate.id === id);
  const { name, notes, markers, plots, aside, ...recipe } = run ?? ({} as Run);
  return JSON.stringify(recipe);
}

/** Whether its formulas speak of what the bench says. */
const usesRecords = (document: Exercise, id: string) =>
  document.runs.find((run) => run.id === id)?.show.some((text) => text.includes("bench("));

/** Whether nothing was touched that the run may depend on. */
const isUntouched = (a: Exercise, b: Exercise, id: string): boolean =>
  a.schematic === b.schematic &&
  a.parameters === b.parameters &&
  a.blocks === b.blocks &&
  a.cases === b.cases &&
  (a.records === b.records || !usesRecords(b, id)) &&
  (a.runs === b.runs || recipeOf(a, id) === recipeOf(b, id));

/** `isOwn` of a run that the document does not keep. */
export function useRunning(run: Run, isOwn = false): Running {
  const [result, setResult] = useState<RunLook | null>(null);
  const [shown, setShown] = useState<RunLook | null>(null);
  const [ghost, setGhost] = useState<RunLook | null>(null);
  const [standing, setStanding] = useState(AT_REST);
  const { busy, share, trouble } = standing;
  const own = useRef(run);
  own.current = run;
  const before = useRef<{ recipe: string; look: RunLook } | null>(null);
  const isSlow = (result?.seconds ?? 0) > QUICK;
  const slow = useRef(false);
  slow.current = isSlow;
  const line = useRef<Asker<"run"> | null>(null);

  const cancel = useCallback(() => line.current?.cancel(), []);

  const again = useCallback(() => {
    line.current?.drop(1_000 * QUICK); // of no use any more, and worth stopping where it takes its time
    line.current?.want({
      run: run.id,
      own: isOwn ? own.current : null,
      case: shownCase(useExercise.getState()),
    });
  }, [run.id, isOwn]);

  useEffect(() => {
    const mine = asker("run", {
      answered: (look, { document }) => {
        setResult(look);
        if (!hasSomething(look)) return;
        const last = before.current;
        const recipe = recipeOf(document, run.id);
        if (last && last.recipe !== recipe) setGhost(null);
        else if (last && last.look.circuit !== look.circuit) setGhost((old) => old ?? last.look);
        before.current = { recipe, look };
        setShown(look);
      },
      stands: (now) => setStanding((was) => ({ ...was, ...now })),
    });
    line.current = mine;
    again();
    // Asked for before the page is drawn, as the edit is all that a result depends on.
    const leave = useExercise.subscribe((state, before) => {
      const [now, was] = [state.document, before.document];
      const isOtherCase = shownCase(state) !== shownCase(before);
      if (isOtherCase || (now !== was && !slow.current && !isUntouched(now, was, run.id))) again();
    });
    return () => {
      leave();
      mine.stop();
    };
  }, [again, run.id]);
  const current = useExercise(
    ({ look }) => look?.runs.find((mark) => mark.id === run.id)?.fingerprint,
  );
  const outOfDate =
    isSlow && Boolean(result && current) && result?.fingerprint !== current && !busy;
  return useMemo(
    () => ({
      result,
      shown,
      ghost,
      busy,
      share,
      trouble,
      again,
      cancel,
      outOfDate,
      dismissGhost: () => setGhost(null),
    }),
    [result, shown, ghost, busy, share, trouble, again, cancel, outOfDate],
  );
}
