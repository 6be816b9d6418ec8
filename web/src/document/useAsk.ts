// A question about the document, for as long as a component is there: asked anew when it changes.
import { useEffect, useRef, useState } from "react";
import type { Refused } from "../api/client";
import {
  type Answer,
  type Asked,
  type Asker,
  AT_REST,
  asker,
  type Name,
  type Question,
  type Standing,
} from "./asker";

interface How {
  /** Parts of the document on which the answer depends; it is asked anew when one is another. */
  of: unknown[];
  /** ms that the hand shall rest before it is asked. */
  rest?: number;
  /** Whether what is under way is ended as it is of no use any more: what takes long. */
  isLong?: boolean;
  onRefused?(error: Refused): void;
}

export interface Asking<N extends Name> extends Standing {
  /** The last answer, with the document and the question it is of. */
  answer: (Asked<N> & { told: Answer<N> }) | null;
  cancel(): void;
}

/** Nothing is asked where the question is null; what was answered before is forgotten then. */
export function useAsk<N extends Name>(
  name: N,
  question: Question<N> | null,
  { of, rest = 0, isLong = false, onRefused }: How,
): Asking<N> {
  const [answer, setAnswer] = useState<Asking<N>["answer"]>(null);
  const [standing, setStanding] = useState(AT_REST);
  const refused = useRef(onRefused);
  refused.current = onRefused;
  const line = useRef<Asker<N> | null>(null);
  // A component that React mounts a second time asks anew.
  useEffect(
    () => () => {
      line.current?.stop();
      line.current = null;
    },
    [],
  );
  const key = JSON.stringify(question);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key is the question; `of` is what it is about
  useEffect(() => {
    if (!question) {
      setAnswer(null);
      return;
    }
    const ask = () => {
      line.current ??= asker(name, {
        answered: (told, asked) => setAnswer({ ...asked, told }),
        stands: (now) => setStanding((before) => ({ ...before, ...now })),
        refused: (error) => refused.current?.(error),
      });
      if (isLong) line.current.drop();
      line.current.want(question);
    };
    if (!rest) {
      ask();
      return;
    }
    const timer = setTimeout(ask, rest);
    return () => clearTimeout(timer);
  }, [key, ...of]);
  return { ...standing, answer, cancel: () => line.current?.cancel() };
}
