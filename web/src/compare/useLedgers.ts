// The ledgers of cases, slow figures among them: asked for when a table of cases or a slow row wants them.
import type { CaseLedger } from "../api/types";
import { useExercise } from "../document/store";
import { useAsk } from "../document/useAsk";

const REST = 400; // ms after the last edit

export interface Ledgers {
  /** Of the document as it is now, in the order asked for; null until then. */
  told: CaseLedger[] | null;
  /** The last ones, whatever the document is by now. */
  last: CaseLedger[] | null;
  /** How much of the work is done, 0 to 1; null while there is none. */
  share: number | null;
  trouble: string | null;
  cancel(): void;
}

/** Those of `cases`, as soon as the hand rests; nothing is asked while it is not `wanted`. */
export function useLedgers(cases: string[], wanted: boolean): Ledgers {
  const document = useExercise((state) => state.document);
  const { answer, ...beside } = useAsk("ledgers", wanted ? { cases } : null, {
    of: [document],
    rest: REST,
    isLong: true,
  });
  const last = answer?.question.cases.join() === cases.join() ? (answer?.told ?? null) : null;
  return { told: answer?.document === document ? last : null, last, ...beside };
}
