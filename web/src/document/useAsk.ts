// A question about the document, for as long as a component is there: asked anew when it changes, one under
// way at a time, the newest next, again where the server does not answer.
import { useEffect, useRef, useState } from "react";
import type { Refused } from "../api/client";
import { askOnLine, type Line } from "../api/line";
import type { Exercise, Sent } from "../api/types";
import { useLatest } from "../api/useLatest";
import { asking } from "./sending";
import { useExercise } from "./store";

type Answering = { [Name in keyof Line]: Line[Name] extends { answer: unknown } ? Name : never };
type Name = NonNullable<Answering[keyof Line]>;
type Answer<N extends Name> = Line[N] extends { answer: infer Told } ? Told : never;
/** What is asked beside the document. */
type Question<N extends Name> = Omit<Line[N]["body"], keyof Sent>;

interface How {
  /** Parts of the document on which the answer depends; it is asked anew when one is another. */
  of: unknown[];
  /** ms that the hand shall rest before it is asked. */
  rest?: number;
  /** Whether what is under way is ended as it is of no use any more: what takes long. */
  isLong?: boolean;
  onRefused?(error: Refused): void;
}

export interface Asked<N extends Name> {
  /** The last answer, with the document and the question it is of. */
  answer: { told: Answer<N>; document: Exercise; question: Question<N> } | null;
  /** Why there is no later one; the server said so where it `isRefused`, else it is asked again. */
  trouble: string | null;
  isRefused: boolean;
  /** How much is done, 0 to 1; null while nothing is under way, or nothing is said of it. */
  share: number | null;
  cancel(): void;
}

/** Nothing is asked where the question is null; what was answered before is forgotten then. */
export function useAsk<N extends Name>(
  name: N,
  question: Question<N> | null,
  { of, rest = 0, isLong = false, onRefused }: How,
): Asked<N> {
  const [answer, setAnswer] = useState<Asked<N>["answer"]>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [isRefused, setRefused] = useState(false);
  const [share, setShare] = useState<number | null>(null);
  const end = useRef<AbortController | null>(null);
  const line = useLatest<{ document: Exercise; question: Question<N> }, Answer<N>>({
    ask: ({ document, question }) => {
      const mine = new AbortController();
      end.current = mine;
      setTrouble(null);
      setRefused(false);
      const follow = { progress: setShare, signal: mine.signal };
      return asking(document, (sent) =>
        askOnLine(name, { ...sent, ...question } as Line[N]["body"], follow),
      ) as Promise<Answer<N>>;
    },
    answered: (asked, told) => setAnswer({ ...asked, told }),
    refused: (_, error) => {
      setTrouble(error.message);
      setRefused(true);
      onRefused?.(error);
    },
    unanswered: (_, error) => setTrouble(error.message),
    busy: (is) => !is && setShare(null),
  });
  const key = JSON.stringify(question);
  useEffect(() => () => end.current?.abort(), []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key is the question; `of` is what it is about
  useEffect(() => {
    if (!question) {
      setAnswer(null);
      return;
    }
    const ask = () => {
      if (isLong) end.current?.abort();
      line.want({ document: useExercise.getState().document, question });
    };
    if (!rest) {
      ask();
      return;
    }
    const timer = setTimeout(ask, rest);
    return () => clearTimeout(timer);
  }, [key, line, ...of]);
  return { answer, trouble, isRefused, share, cancel: () => end.current?.abort() };
}
