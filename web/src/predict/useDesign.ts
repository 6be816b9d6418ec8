// What the lines with a question mark come to: asked for as soon as the hand rests.
import { create } from "zustand";
import type { DesignLook, Series } from "../api/types";
import { useShownCase } from "../document/cases";
import { useExercise } from "../document/store";
import { useAsk } from "../document/useAsk";

const REST = 500; // ms after the last edit

/** From which series values are taken, and whether two of them may stand for one. */
export const useSeries = create<{ series: Series; pairs: boolean }>()(() => ({
  series: "E12",
  pairs: false,
}));

/** The latest answer; null until there is one, and where nothing is sought. */
export function useDesign(isSought: boolean): DesignLook | null {
  const document = useExercise((state) => state.document);
  const shown = useShownCase();
  const { series, pairs } = useSeries();
  const question = isSought ? { case: shown, series, pairs } : null;
  const { answer, trouble } = useAsk("design", question, { of: [document], rest: REST });
  if (!isSought) return null;
  return trouble ? { sought: [], trouble } : (answer?.told ?? null);
}
