// What the figures on the drawing are of: the circuit at rest, or a run of it.
import { useEffect, useMemo } from "react";
import { create } from "zustand";
import type { Evaluation, QuantityLook, Run } from "../../api/types";
import { useShownCase } from "../../document/cases";
import { LETTERS } from "../../document/runs";
import { useExercise } from "../../document/store";
import { useAsk } from "../../document/useAsk";

/** A run, and for one over an axis which of its markers; null is the circuit at rest. */
export interface FiguresOf {
  run: string;
  mark: number | null;
}

interface Figures {
  of: FiguresOf | null;
  quantities: QuantityLook[] | null;
  /** At which frequency, or where on an axis: "1 kHz". */
  at: string;
  /** Why there are none. */
  problem: string | null;
}

const NONE: Figures = { of: null, quantities: null, at: "", problem: null };

export const useFigures = create<Figures>()(() => NONE);

export const showFiguresOf = (of: FiguresOf | null): void => useFigures.setState({ ...NONE, of });

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

/** Keeps the figures of the chosen run true to the drawing; without one, nothing is asked. It shows nothing
 * itself, so that an edit draws nothing anew for it. */
export function FiguresFollow(): null {
  const of = useFigures((state) => state.of);
  const runs = useExercise((state) => state.document.runs);
  const inside = useExercise((state) => state.inside);
  const run = runs?.find((each) => each.id === of?.run);
  const at = of && of.mark !== null ? run?.markers[of.mark]?.at : null;
  const gone = of !== null && (!run || at === undefined || inside !== null);
  useEffect(() => {
    if (gone) showFiguresOf(null);
  }, [gone]);
  const schematic = useExercise((state) => state.document.schematic);
  const parameters = useExercise((state) => state.document.parameters);
  const blocks = useExercise((state) => state.document.blocks);
  const shown = useShownCase();
  const asked = of && !gone ? { run: of.run, at: at ?? null, own: null, case: shown } : null;
  const { answer, trouble, isRefused } = useAsk("figures", asked, {
    of: [schematic, parameters, runs, blocks],
  });
  const isOfIt = answer?.question.run === asked?.run && answer?.question.at === asked?.at;
  useEffect(() => {
    if (isRefused) useFigures.setState({ quantities: null, at: "", problem: trouble });
    else if (answer && isOfIt) useFigures.setState({ ...answer.told, problem: null });
  }, [answer, isOfIt, isRefused, trouble]);
  return null;
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
