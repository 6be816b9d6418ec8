// How the figures by hand stand to the circuit's own results: asked for as soon as the hand rests.
import { useEffect, useState } from "react";
import { askOnLine } from "../api/line";
import type { Exactness, Exercise } from "../api/types";
import { useLatest } from "../api/useLatest";
import { useShownCase } from "../document/cases";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";

const REST = 700; // ms after the last edit

interface Question {
  document: Exercise;
  case: string;
}

/** By figure, of a curve by its line; empty until it is known of the document as it is now. */
export function useExactness(): ReadonlyMap<string, Exactness> {
  const document = useExercise((state) => state.document);
  const shown = useShownCase();
  const [answer, setAnswer] = useState<{ of: Question; told: Exactness[] } | null>(null);
  const line = useLatest<Question, Exactness[]>({
    ask: (question) =>
      asking(question.document, (sent) => askOnLine("exact", { ...sent, case: question.case })),
    answered: (of, told) => setAnswer({ of, told }),
    refused: () => setAnswer(null), // the drawing is of no use, which is said where it is wrong
    unanswered: () => setAnswer(null),
  });
  const hasLines = document.hand.some(({ text }) => text.trim());
  useEffect(() => {
    if (!hasLines) return;
    const timer = setTimeout(() => line.want({ document, case: shown }), REST);
    return () => clearTimeout(timer);
  }, [document, shown, hasLines, line]);
  const isOfNow = answer?.of.document === document && answer.of.case === shown;
  return new Map(isOfNow ? answer.told.map((each) => [each.line || each.figure, each]) : []);
}
