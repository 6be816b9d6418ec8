// The frame of a sweep.
import type { Point } from "../../api/types";
import { spanned } from "../model/geometry";

export function Sweep({ from, to }: { from: Point; to: Point }) {
  const { left, top, right, bottom } = spanned(from, to);
  return (
    <rect
      x={left}
      y={top}
      width={right - left}
      height={bottom - top}
      fill="var(--accent)"
      fillOpacity={0.08}
      stroke="var(--accent)"
      strokeWidth={0.1}
    />
  );
}
