// What the figures on the drawing are of: the circuit at rest, or a run of it.
import { useEffect, useMemo } from "react";
import { create } from "zustand";
import { latest } from "../../api/latest";
import { askOnLine } from "../../api/line";
import type { Evaluation, Exercise, QuantityLook, Run } from "../../api/types";
import { shownCase } from "../../document/cases";
import { LETTERS } from "../../document/runs";
import { asking } from "../../document/sending";
import { useExercise } from "../../document/store";

/** A run, and for one over an axis which of its markers; null is the circuit at rest. */
export interface FiguresOf {
  run: string;
  mark: number | null;
}

interface Figures {
  of: FiguresOf | null;
  quantities: QuantityLook[] | null;
  /** Why there are none. */
  problem: string | null;
}

export const useFigures = create<Figures>()(() => ({ of: null, quantities: null, problem: null }));

export const showFiguresOf = (of: FiguresOf | null): void =>
  useFigures.setState({ of, quantities: null, problem: null });

/** What may be chosen, with the words for it. */
export function sourcesIn(runs: Run[]): { of: FiguresOf; words: string }[] {
  return runs.flatMap((run) => [
    ...(run.analysis === "phasor" ? [{ of: { run: run.id, mark: null }, words: run.name }] : []),
    ...run.markers.map((_, mark) => ({
      of: { run: run.id, mark },
      words: `${run.name}, at ${LETTERS[mark]}`,
    })),
  ]);
}

interface Asked {
  document: Exercise;
  run: string;
  at: number | null;
}

/** Keeps the figures of the chosen run true to the drawing; without one, nothing is asked. */
export function useFiguresFollow(): void {
  const of = useFigures((state) => state.of);
  const runs = useExercise((state) => state.document.runs);
  const inside = useExercise((state) => state.inside);
  const run = runs?.find((each) => each.id === of?.run);
  const at = of && of.mark !== null ? run?.markers[of.mark]?.at : null;
  const gone = of !== null && (!run || at === undefined || inside !== null);
  useEffect(() => {
    if (gone) showFiguresOf(null);
  }, [gone]);
  useEffect(() => {
    if (!of || gone) return;
    const line = latest<Asked, QuantityLook[]>({
      ask: ({ document, run, at }) =>
        asking(document, (sent) =>
          askOnLine("figures", {
            ...sent,
            run,
            at,
            own: null,
            case: shownCase(useExercise.getState()),
          }),
        ),
      answered: (_, quantities) => useFigures.setState({ quantities, problem: null }),
      refused: (_, { message }) => useFigures.setState({ quantities: null, problem: message }),
    });
    const want = (document: Exercise) => line.want({ document, run: of.run, at: at ?? null });
    want(useExercise.getState().document);
    const leave = useExercise.subscribe((state, before) => {
      const [now, was] = [state.document, before.document];
      if (shownCase(state) !== shownCase(before)) want(now);
      else if (now.schematic !== was.schematic || now.parameters !== was.parameters) want(now);
      else if (now.runs !== was.runs || now.blocks !== was.blocks) want(now);
    });
    return () => {
      leave();
      line.stop();
    };
  }, [of, at, gone]);
}

/** The look with the figures that are to stand on the drawing; a field of zeros is not. */
export function useShownLook(): Evaluation | null {
  const look = useExercise((state) => state.look);
  const of = useFigures((state) => state.of);
  const quantities = useFigures((state) => state.quantities);
  const isZero = useIsZeroAtRest();
  return useMemo(() => {
    if (look && !of && isZero) return { ...look, quantities: [] };
    if (!look || !of) return look;
    const meanings = new Map(look.quantities.map(({ name, meaning }) => [name, meaning]));
    const told = (quantities ?? []).map((q) => ({ ...q, meaning: meanings.get(q.name) ?? q.name }));
    return { ...look, quantities: told };
  }, [look, of, quantities, isZero]);
}

/** Whether at rest there is nothing to see, or no solution, while there is something in phasors. */
export function useIsZeroAtRest(): boolean {
  const look = useExercise((state) => state.look);
  const parts = useExercise((state) => state.document.schematic.parts);
  return useMemo(() => {
    const figures = look?.quantities ?? [];
    const isZero = figures.every(({ value }) => value === 0);
    const swings = parts.some(
      ({ kind, form, values }) =>
        kind.endsWith("_source") &&
        (form === "sine" || Number.parseFloat(values.magnitude ?? "") > 0),
    );
    return swings && isZero && look !== null && parts.length > 1;
  }, [look, parts]);
}
