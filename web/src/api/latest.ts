// Asking about what keeps changing: one question under way at a time, the newest next, and again where the
// server does not answer, or says that it cannot now.
import { isPassing, Refused } from "./client";

const RETRY = 2_000; // ms between tries

export interface Asking<Question, Answer> {
  ask(question: Question): Promise<Answer>;
  answered(question: Question, answer: Answer): void;
  /** The server said no: it is not asked the same again. */
  refused(question: Question, error: Refused): void;
  /** There was no answer; it is asked again. */
  unanswered?(question: Question, error: Error): void;
  /** Whether something is under way. */
  busy?(is: boolean): void;
}

export interface Latest<Question> {
  want(question: Question): void;
  stop(): void;
}

export function latest<Question, Answer>(asking: Asking<Question, Answer>): Latest<Question> {
  let wanted: { question: Question } | null = null;
  let underWay = false;
  let stopped = false;
  const go = async () => {
    underWay = true;
    asking.busy?.(true);
    while (wanted && !stopped) {
      const { question }: { question: Question } = wanted;
      wanted = null;
      try {
        const answer = await asking.ask(question);
        if (!stopped) asking.answered(question, answer);
      } catch (error) {
        if (stopped) break;
        if (error instanceof Refused && !isPassing(error)) asking.refused(question, error);
        else {
          asking.unanswered?.(question, error as Error);
          await new Promise((done) => setTimeout(done, RETRY));
          wanted ??= { question };
        }
      }
    }
    underWay = false;
    if (!stopped) asking.busy?.(false);
  };
  return {
    want(question) {
      wanted = { question };
      if (!underWay) void go();
    },
    stop() {
      stopped = true;
    },
  };
}
