// What the bench's records are beside the result of a run: asked for when either changes.
import { useState } from "react";
import type { BesideLook, Run, RunLook } from "../api/types";
import { useExercise } from "../document/store";
import { useOfResult } from "./useOfResult";

/** Null while there is no record that could be shown. `isOwn` of a run that the document does not keep;
 * `before` is a record that shall stand as it was before it was taken again too. */
export function useBeside(
  run: Run,
  shown: RunLook | null,
  again: () => void,
  isOwn = false,
  before = "",
): BesideLook | null {
  const records = useExercise((state) => state.document.records);
  const [refused, setRefused] = useState<{ result: string; message: string } | null>(null);
  const result = shown?.result ?? "";
  // Where markers stand changes nothing in it.
  const own = isOwn ? { ...run, markers: [], notes: [] } : null;
  const question = result && records.length ? { result, run: run.id, own, before } : null;
  const { answer } = useOfResult("beside", question, {
    of: [records, run.without.join(), run.reads.join()],
    again,
    onRefused: ({ message }) => setRefused({ result, message }),
  });
  if (question && refused?.result === result)
    return { curves: [], gaps: [], offered: [], problems: [refused.message] };
  return answer?.told ?? null;
}
