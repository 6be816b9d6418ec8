// What the lines with a question mark come to: asked for as soon as the hand rests.
import { useEffect, useState } from "react";
import { create } from "zustand";
import { askOnLine } from "../api/line";
import type { DesignLook, Exercise, Series } from "../api/types";
import { useLatest } from "../api/useLatest";
import { useShownCase } from "../document/cases";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";

const REST = 500; // ms after the last edit

/** From which series values are taken, and whether two of them may stand for one. */
export const useSeries = create<{ series: Series; pairs: boolean }>()(() => ({
  series: "E12",
  pairs: false,
}));

interface Question {
  document: Exercise;
  case: string;
  series: Series;
  pairs: boolean;
}

/** The latest answer; null until there is one, and where nothing is sought. */
export function useDesign(isSought: boolean): DesignLook | null {
  const document = useExercise((state) => state.document);
  const shown = useShownCase();
  const { series, pairs } = useSeries();
  const [answer, setAnswer] = useState<DesignLook | null>(null);
  const line = useLatest<Question, DesignLook>({
    ask: ({ document, ...question }) =>
      asking(document, (sent) => askOnLine("design", { ...sent, ...question })),
    answered: (_, told) => setAnswer(told),
    refused: (_, error) => setAnswer({ sought: [], trouble: error.message }),
    unanswered: (_, error) => setAnswer({ sought: [], trouble: error.message }),
  });
  useEffect(() => {
    if (!isSought) return;
    const timer = setTimeout(() => line.want({ document, case: shown, series, pairs }), REST);
    return () => clearTimeout(timer);
  }, [document, shown, series, pairs, isSought, line]);
  return isSought ? answer : null;
}
