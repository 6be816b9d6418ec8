// The question beside a gap: opens the answer in place, or closes it.
import type { ReactNode } from "react";
import { askWhy, closeWhy, type Question, useWhy } from "./why";

interface Props {
  /** Where the answer opens. */
  at: string;
  question: Partial<Question>;
  /** What differs, for those who hear the button; what it says itself is enough where it is more than Why? */
  of?: string;
  children?: ReactNode;
}

export function WhyButton({ at, question, of, children }: Props) {
  const isOpen = useWhy((state) => state.at === at);
  return (
    <button
      type="button"
      aria-expanded={isOpen}
      aria-label={children ? undefined : `Why? ${of}`}
      onClick={() => (isOpen ? closeWhy() : askWhy(at, question))}
      className={`rounded-md px-1 text-accent underline-offset-3 hover:underline print:hidden ${children ? "text-[13px]" : "font-serif text-[15px] italic"}`}
    >
      {children ?? "Why?"}
    </button>
  );
}
