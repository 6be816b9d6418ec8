// The ledgers of cases, slow figures among them: asked for when a table of cases or a slow row wants them.
import { useEffect, useRef, useState } from "react";
import { askOnLine } from "../api/line";
import type { CaseLedger, Exercise } from "../api/types";
import { useLatest } from "../api/useLatest";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";

const REST = 400; // ms after the last edit

interface Question {
  document: Exercise;
  cases: string[];
}

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
  const [answer, setAnswer] = useState<{ of: Exercise; cases: string; told: CaseLedger[] } | null>(
    null,
  );
  const [share, setShare] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const end = useRef<AbortController | null>(null);
  const line = useLatest<Question, CaseLedger[]>({
    ask: (question) => {
      const mine = new AbortController();
      end.current = mine;
      setTrouble(null);
      return asking(question.document, (sent) =>
        askOnLine(
          "ledgers",
          { ...sent, cases: question.cases },
          { progress: setShare, signal: mine.signal },
        ),
      );
    },
    answered: (question, told) =>
      setAnswer({ of: question.document, cases: question.cases.join(), told }),
    refused: (_, error) => setTrouble(error.message),
    unanswered: (_, error) => setTrouble(error.message),
    busy: (is) => !is && setShare(null),
  });
  useEffect(() => () => end.current?.abort(), []);
  const key = cases.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key names the cases
  useEffect(() => {
    if (!wanted) return;
    const timer = setTimeout(() => {
      end.current?.abort();
      line.want({ document, cases });
    }, REST);
    return () => clearTimeout(timer);
  }, [document, key, wanted, line]);
  const isOfCases = answer?.cases === key;
  return {
    told: isOfCases && answer.of === document ? answer.told : null,
    last: isOfCases ? answer.told : null,
    share,
    trouble,
    cancel: () => end.current?.abort(),
  };
}
