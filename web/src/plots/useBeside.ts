// What the bench's records are beside the result of a run: asked for when either changes.
import { useEffect, useState } from "react";
import { isForgotten } from "../api/client";
import { askOnLine } from "../api/line";
import type { BesideLook, Exercise, Run, RunLook } from "../api/types";
import { useLatest } from "../api/useLatest";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";

interface Question {
  document: Exercise;
  result: string;
}

/** Null while there is no record that could be shown. `isOwn` of a run that the document does not keep;
 * `before` is a record that shall stand as it was before it was taken again too. */
export function useBeside(
  run: Run,
  shown: RunLook | null,
  isOwn = false,
  before = "",
): BesideLook | null {
  const document = useExercise((state) => state.document);
  const [look, setLook] = useState<BesideLook | null>(null);
  const line = useLatest<Question, BesideLook>({
    ask: (question) =>
      asking(question.document, (sent) =>
        askOnLine("beside", {
          ...sent,
          result: question.result,
          run: run.id,
          own: isOwn ? run : null,
          before,
        }),
      ),
    answered: (_, answer) => setLook(answer),
    refused: (_, error) => {
      if (!isForgotten(error))
        setLook({ curves: [], gaps: [], offered: [], problems: [error.message] });
    },
  });
  const { records } = document;
  const result = shown?.result ?? "";
  const without = run.without.join();
  const reads = run.reads.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew when what is read or hidden changes
  useEffect(() => {
    if (!result || !records.length) {
      setLook(null);
      return;
    }
    line.want({ document: useExercise.getState().document, result });
  }, [line, result, records, without, reads, before]);
  return look;
}
