// Asking the server for a run: at once after every edit while it is quick, when asked to where it is not.
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, Refused } from "../api/client";
import { askOnLine } from "../api/line";
import type { Exercise, Run, RunLook } from "../api/types";
import { asking } from "../exercise/sending";
import { useExercise } from "../exercise/store";

const QUICK = 1; // s: what takes longer waits to be asked for
const PATIENT = 400; // ms after which it is asked how far a run has come, and again
const RETRY = 2_000; // ms between tries while the server does not answer

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

// Tells the runs of this page from those of others.
const PAGE = Math.random().toString(36).slice(2);
let asks = 0;

/** Asks how far the run of that key has come until told to stop. */
function following(key: string, tell: (share: number | null) => void): () => void {
  const timer = setInterval(() => {
    ask<{ share: number | null }>(
      api.GET("/api/run/progress", { params: { query: { key } } }),
    ).then(
      ({ share }) => share !== null && tell(share),
      () => undefined, // told where the run itself is asked for
    );
  }, PATIENT);
  return () => clearInterval(timer);
}

/** What the circuit is, wherever its parts may lie. */
function circuitOf({ schematic, parameters, blocks }: Exercise): string {
  const parts = schematic.parts.map(({ kind, name, values, form, textbook }) => [
    kind,
    name,
    values,
    form,
    textbook,
  ]);
  return JSON.stringify([parts, parameters, blocks]);
}

function recipeOf(document: Exercise, id: string): string {
  const run = document.runs.find((candidate) => candidate.id === id);
  return JSON.stringify([run?.analysis, run?.settings, run?.show, run?.reads]);
}

/** Whether nothing was touched that the run depends on. */
const sameRun = (a: Exercise, b: Exercise, id: string): boolean =>
  a.schematic === b.schematic &&
  a.parameters === b.parameters &&
  a.blocks === b.blocks &&
  (a.runs === b.runs || recipeOf(a, id) === recipeOf(b, id));

/** Whether the run comes out the same, whatever was touched. */
const sameResult = (a: Exercise, b: Exercise, id: string): boolean =>
  sameRun(a, b, id) ||
  (circuitOf(a) === circuitOf(b) &&
    a.schematic.wires === b.schematic.wires &&
    recipeOf(a, id) === recipeOf(b, id));

export function useRunning(run: Run): Running {
  const [result, setResult] = useState<RunLook | null>(null);
  const [shown, setShown] = useState<RunLook | null>(null);
  const [ghost, setGhost] = useState<RunLook | null>(null);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const asked = useRef<Exercise | null>(null);
  const wanted = useRef<Exercise | null>(null);
  const before = useRef<{ circuit: string; recipe: string; look: RunLook } | null>(null);
  const underWay = useRef<{ key: string; since: number } | null>(null);
  const [share, setShare] = useState<number | null>(null);
  const alive = useRef(true);
  const isSlow = (result?.seconds ?? 0) > QUICK;
  const slow = useRef(false);
  slow.current = isSlow;

  const go = useCallback(async () => {
    if (underWay.current) return;
    setBusy(true);
    while (wanted.current && alive.current) {
      asks += 1;
      const key = `${PAGE} ${asks}`;
      underWay.current = { key, since: performance.now() };
      const document = wanted.current;
      wanted.current = null;
      const stop = following(key, setShare);
      try {
        const seen = await asking(document, (sent) =>
          askOnLine<RunLook>("/api/run", { ...sent, run: run.id, key, window: null }),
        );
        setTrouble(null);
        setResult(seen);
        if (hasSomething(seen)) {
          const now = {
            circuit: circuitOf(document),
            recipe: recipeOf(document, run.id),
          };
          const last = before.current;
          if (last && last.recipe !== now.recipe) setGhost(null);
          else if (last && last.circuit !== now.circuit) setGhost((old) => old ?? last.look);
          before.current = { ...now, look: seen };
          setShown(seen);
        }
      } catch (error) {
        setTrouble((error as Error).message);
        if (error instanceof Refused) continue;
        wanted.current ??= document;
        await new Promise((done) => setTimeout(done, RETRY));
      } finally {
        stop();
        setShare(null);
      }
    }
    underWay.current = null;
    setBusy(false);
  }, [run.id]);

  const cancel = useCallback(() => {
    const key = underWay.current?.key;
    if (key) void ask(api.POST("/api/run/cancel", { params: { query: { key } } })).catch(() => {});
  }, []);

  const again = useCallback(() => {
    wanted.current = useExercise.getState().document;
    // What is under way is of no use any more: worth stopping where it takes its time.
    const since = underWay.current?.since ?? Number.POSITIVE_INFINITY;
    if (performance.now() - since > 1_000 * QUICK) cancel();
    asked.current = wanted.current;
    void go();
  }, [go, cancel]);

  useEffect(() => {
    alive.current = true;
    return () => {
      alive.current = false;
      cancel();
    };
  }, [cancel]);
  useEffect(() => {
    again();
    // Asked for before the page is drawn, as the edit is all that a result depends on.
    return useExercise.subscribe(({ document: now }, { document: before }) => {
      if (now !== before && !slow.current && !sameRun(now, before, run.id)) again();
    });
  }, [again, run.id]);
  const outOfDate = useExercise(
    ({ document }) =>
      isSlow && asked.current !== null && !sameResult(asked.current, document, run.id),
  );
  return {
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
  };
}
