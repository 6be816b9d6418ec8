// What lies under and over the drawing: the ruling of the paper, the frame of a sweep.
import type { Point } from "../api/types";
import { spanned } from "./geometry";
import type { View } from "./view";

const RULING = 2; // grid units between the lines of the paper
const FAR = 5; // scale below which only every fifth line is drawn

export function Paper({ view, width, height }: { view: View; width: number; height: number }) {
  if (!width) return null;
  const cell = view.scale < FAR ? RULING * 5 : RULING;
  return (
    <>
      <defs>
        <pattern id="ruling" width={cell} height={cell} patternUnits="userSpaceOnUse">
          <path
            d={`M0 0H${cell}M0 0V${cell}`}
            stroke="var(--ruling)"
            strokeWidth={1.6 / view.scale}
          />
        </pattern>
      </defs>
      <rect
        x={view.x}
        y={view.y}
        width={width / view.scale}
        height={height / view.scale}
        fill="url(#ruling)"
      />
    </>
  );
}

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
