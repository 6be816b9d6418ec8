// A verdict in words and mark; the colour only repeats what both say.
import { Equal, EqualApproximately, EqualNot, Minus } from "lucide-react";
import type { RowLook } from "../api/types";

const VERDICTS = {
  agree: { word: "agrees", Mark: Equal, tone: "text-accent bg-accent-wash" },
  near: { word: "near", Mark: EqualApproximately, tone: "text-doubt bg-doubt-wash" },
  gap: { word: "differs", Mark: EqualNot, tone: "text-fault bg-fault-wash" },
  open: { word: "not compared", Mark: Minus, tone: "text-soft" },
} as const;

/** Where it `isSmall`, or the container is narrow, the mark alone is seen. */
export function Verdict({
  verdict,
  isSmall = false,
}: {
  verdict: RowLook["verdict"];
  isSmall?: boolean;
}) {
  const { word, Mark, tone } = VERDICTS[verdict];
  return (
    <span
      className={`inline-flex items-center gap-1.5 rounded-full py-0.5 text-[13px] font-medium ${isSmall ? "px-1.5" : "px-2.5 @max-[28rem]:px-1.5"} ${tone}`}
    >
      <Mark size={14} aria-hidden="true" />
      <span className={isSmall ? "sr-only" : "@max-[28rem]:sr-only"}>{word}</span>
    </span>
  );
}
