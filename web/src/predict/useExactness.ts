// How the figures by hand stand to the circuit's own results: asked for as soon as the hand rests.
import type { Exactness } from "../api/types";
import { useShownCase } from "../document/cases";
import { useExercise } from "../document/store";
import { useAsk } from "../document/useAsk";

const REST = 700; // ms after the last edit

/** By figure, of a curve by its line; empty until it is known of the document as it is now. Where the drawing
 * is of no use, that is said where it is wrong. */
export function useExactness(): ReadonlyMap<string, Exactness> {
  const document = useExercise((state) => state.document);
  const shown = useShownCase();
  const hasLines = document.hand.some(({ text }) => text.trim());
  const question = hasLines ? { case: shown } : null;
  const { answer, trouble } = useAsk("exact", question, { of: [document], rest: REST });
  const isOfNow = !trouble && answer?.document === document && answer.question.case === shown;
  return new Map(isOfNow ? answer.told.map((each) => [each.line || each.figure, each]) : []);
}
