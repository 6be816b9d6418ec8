// Why two voices differ: what is asked, and what is known of the answer by now.
import { create } from "zustand";
import type { ExplanationLook } from "../api/types";
import { AT_REST, asker, type Standing } from "../document/asker";

export type Voices = "bench-simulated" | "hand-simulated" | "bench-hand";

export interface Question {
  voices: Voices;
  /** Of a hand figure, its row; and the case it is looked at in. */
  row: string;
  case: string;
  /** Of several runs that show the same as a record, the one meant. */
  run: string;
}

interface Why extends Standing {
  /** Where on the page it stands open; null while it does not. */
  at: string | null;
  question: Question;
  /** What was measured and shall not count, and causes that were ruled out. */
  left: string[];
  without: string[];
  told: ExplanationLook | null;
}

const nothing: Why = {
  at: null,
  question: { voices: "bench-simulated", row: "", case: "", run: "" },
  left: [],
  without: [],
  told: null,
  ...AT_REST,
};

export const useWhy = create<Why>()(() => ({ ...nothing }));

const line = asker("explain", {
  answered: (told) => useWhy.setState({ told }),
  stands: (now) => useWhy.setState(now),
  soFar: (told) => useWhy.setState({ told }),
});

/** Asks again, of the document as it is now. */
export function askAgain(): void {
  const { at, question, left, without } = useWhy.getState();
  if (at === null) return;
  line.drop();
  line.want({ ...question, left, without });
}

export function askWhy(at: string, question: Partial<Question>): void {
  useWhy.setState({ ...nothing, at, question: { ...nothing.question, ...question } });
  askAgain();
}

export function closeWhy(): void {
  cancelWhy();
  useWhy.setState({ ...nothing });
}

/** What is known by now stays. */
export const cancelWhy = (): void => line.drop();

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
