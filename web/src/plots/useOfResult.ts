// A question about a result that the server remembers, for as long as a component is there.
import { useRef } from "react";
import { isForgotten, type Refused } from "../api/client";
import type { Name, Question } from "../document/asker";
import { type Asking, useAsk } from "../document/useAsk";

interface How {
  /** Parts of the document on which the answer depends beside the result. */
  of: unknown[];
  /** Carries the run out once more. */
  again(): void;
  onRefused?(error: Refused): void;
}

/** The server forgets results in time, and all of a page whose line broke: the run is carried out again
 * then, once for each result. */
export function useOfResult<N extends Name>(
  name: N,
  question: (Question<N> & { result: string }) | null,
  { of, again, onRefused }: How,
): Asking<N> {
  const forgotten = useRef("");
  const result = question?.result ?? "";
  return useAsk(name, question, {
    of,
    onRefused: (error) => {
      if (!isForgotten(error)) onRefused?.(error);
      else if (forgotten.current !== result) {
        forgotten.current = result;
        again();
      }
    },
  });
}
