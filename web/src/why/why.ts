// Why two voices differ: what is asked, and what is known of the answer by now.
import { create } from "zustand";
import { latest } from "../api/latest";
import { askOnLine } from "../api/line";
import type { Exercise, ExplanationLook } from "../api/types";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";

export type Voices = "bench-simulated" | "hand-simulated" | "bench-hand";

export interface Question {
  voices: Voices;
  /** Of a hand figure, its row; and the case it is looked at in. */
  row: string;
  case: string;
  /** Of several runs that show the same as a record, the one meant. */
  run: string;
}

interface Why {
  /** Where on the page it stands open; null while it does not. */
  at: string | null;
  question: Question;
  /** What was measured and shall not count, and causes that were ruled out. */
  left: string[];
  without: string[];
  told: ExplanationLook | null;
  /** How much of the search is done; null while there is none. */
  share: number | null;
  trouble: string | null;
}

const nothing: Why = {
  at: null,
  question: { voices: "bench-simulated", row: "", case: "", run: "" },
  left: [],
  without: [],
  told: null,
  share: null,
  trouble: null,
};

export const useWhy = create<Why>()(() => ({ ...nothing }));

interface Asked {
  document: Exercise;
  question: Question;
  left: string[];
  without: string[];
}

let end: AbortController | null = null;

const line = latest<Asked, ExplanationLook>({
  ask: ({ document, question, left, without }) => {
    const mine = new AbortController();
    end = mine;
    const follow = {
      signal: mine.signal,
      progress: (share: number) => end === mine && useWhy.setState({ share }),
      soFar: (known: unknown) => {
        if (end === mine) useWhy.setState({ told: known as ExplanationLook });
      },
    };
    return asking(document, (sent) =>
      askOnLine("explain", { ...sent, ...question, left, without }, follow),
    );
  },
  answered: (_, told) => useWhy.setState({ told, trouble: null }),
  refused: (_, error) => end && useWhy.setState({ trouble: error.message }),
  unanswered: (_, error) => useWhy.setState({ trouble: error.message }),
  busy: (is) => !is && useWhy.setState({ share: null }),
});

/** Asks again, of the document as it is now. */
export function askAgain(): void {
  const { at, question, left, without } = useWhy.getState();
  if (at === null) return;
  end?.abort();
  useWhy.setState({ share: 0, trouble: null });
  line.want({ document: useExercise.getState().document, question, left, without });
}

export function askWhy(at: string, question: Partial<Question>): void {
  useWhy.setState({ ...nothing, at, question: { ...nothing.question, ...question } });
  askAgain();
}

export function closeWhy(): void {
  cancelWhy();
  useWhy.setState({ ...nothing });
}

export function cancelWhy(): void {
  end?.abort();
  end = null;
}

export function ruleOut(causes: string[]): void {
  useWhy.setState(({ without }) => ({ without: [...without, ...causes] }));
  askAgain();
}

export function bringBack(): void {
  useWhy.setState({ without: [] });
  askAgain();
}

export function toggleSource(key: string): void {
  useWhy.setState(({ left }) => ({
    left: left.includes(key) ? left.filter((other) => other !== key) : [...left, key],
  }));
  askAgain();
}
