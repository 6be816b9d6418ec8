// A verdict in words and mark; the colour only repeats what both say.
import { Equal, EqualApproximately, EqualNot, Minus } from "lucide-react";
import type { RowLook } from "../api/types";

const VERDICTS = {
  agree: { word: "agrees", Mark: Equal, tone: "text-accent bg-accent-wash" },
  near: { word: "near", Mark: EqualApproximately, tone: "text-doubt bg-doubt-wash" },
  gap: { word: "differs", Mark: EqualNot, tone: "text-fault bg-fault-wash" },
  open: { word: "not compared", Mark: Minus, tone: "text-soft" },
} as const;

export function Verdict({ verdict }: { verdict: RowLook["verdict"] }) {
  const { word, Mark, tone } = VERDICTS[verdict];
  return (
    <span
      className={`inline-flex items-center gap-1.5 rounded-full px-2.5 py-0.5 text-[13px] font-medium ${tone}`}
    >
      <Mark size={14} aria-hidden="true" />
      {word}
    </span>
  );
}
