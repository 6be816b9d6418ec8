// One question about the document on the line: one under way at a time, the newest next, again where the
// server does not answer; how far it is is told, and what is under way can be ended.
import type { Refused } from "../api/client";
import { latest } from "../api/latest";
import { askOnLine, type Line } from "../api/line";
import type { Exercise, Sent } from "../api/types";
import { asking } from "./sending";
import { useExercise } from "./store";

type Answering = { [Name in keyof Line]: Line[Name] extends { answer: unknown } ? Name : never };
export type Name = NonNullable<Answering[keyof Line]>;
export type Answer<N extends Name> = Line[N] extends { answer: infer Told } ? Told : never;
/** What is asked beside the document. */
export type Question<N extends Name> = Omit<Line[N]["body"], keyof Sent>;

export interface Asked<N extends Name> {
  document: Exercise;
  question: Question<N>;
}

/** How it stands with what is asked. */
export interface Standing {
  busy: boolean;
  /** How much is done, 0 to 1; null while nothing is under way, or nothing is said of it. */
  share: number | null;
  /** Why there is no later answer; the server said so where it `isRefused`, else it is asked again. */
  trouble: string | null;
  isRefused: boolean;
}

export const AT_REST: Standing = { busy: false, share: null, trouble: null, isRefused: false };

interface Hears<N extends Name> {
  answered(told: Answer<N>, asked: Asked<N>): void;
  stands(now: Partial<Standing>): void;
  refused?(error: Refused): void;
  /** What is known of the answer by now, of what grows. */
  soFar?(known: Answer<N>): void;
}

export interface Asker<N extends Name> {
  /** Asks of the document as it is now. */
  want(question: Question<N>): void;
  /** Ends what is under way, and says that it was ended. */
  cancel(): void;
  /** Ends what is under way and is of no use any more, without a word; only what takes longer than `ms`. */
  drop(ms?: number): void;
  /** Nothing is heard any more. */
  stop(): void;
}

export function asker<N extends Name>(name: N, hears: Hears<N>): Asker<N> {
  let underWay: { end: AbortController; since: number; isWanted: boolean } | null = null;
  const line = latest<Asked<N>, Answer<N>>({
    ask: ({ document, question }) => {
      const mine = { end: new AbortController(), since: performance.now(), isWanted: true };
      underWay = mine;
      hears.stands({ share: null, trouble: null, isRefused: false });
      const follow = {
        signal: mine.end.signal,
        progress: (share: number) => mine.isWanted && hears.stands({ share }),
        soFar: (known: unknown) => mine.isWanted && hears.soFar?.(known as Answer<N>),
      };
      return asking(document, (sent) =>
        askOnLine(name, { ...sent, ...question } as Line[N]["body"], follow),
      ) as Promise<Answer<N>>;
    },
    answered: (asked, told) => underWay?.isWanted && hears.answered(told, asked),
    refused: (_, error) => {
      if (!underWay?.isWanted) return;
      hears.stands({ trouble: error.message, isRefused: true });
      hears.refused?.(error);
    },
    unanswered: (_, error) => hears.stands({ trouble: error.message }),
    busy: (busy) => !busy && hears.stands({ busy, share: null }),
  });
  const drop = (ms = 0) => {
    if (!underWay || performance.now() - underWay.since < ms) return;
    underWay.isWanted = false;
    underWay.end.abort();
  };
  return {
    want(question) {
      hears.stands({ busy: true });
      line.want({ document: useExercise.getState().document, question });
    },
    cancel: () => underWay?.end.abort(),
    drop,
    stop() {
      line.stop();
      drop();
    },
  };
}
