// The ruling of the paper.
import type { View } from "../model/view";

const RULING = 2; // grid units between the lines
const ROOM = 1.6; // times the frame's width and height, so that it is covered while the view draws back
const FAR = 5; // scale below which only every fifth line is drawn

/** Painted at `scale`, and moved to where the view is: by less than a cell, as all cells are alike. */
export function Paper({ view, scale }: { view: View; scale: number }) {
  const cell = RULING * scale * (scale < FAR ? 5 : 1);
  const growth = view.scale / scale;
  const line = "var(--ruling) 1px, transparent 1px";
  const shift = (corner: number) => -((corner * view.scale) % (cell * growth));
  return (
    <div
      className="pointer-events-none absolute top-0 left-0 origin-top-left will-change-transform"
      style={{
        width: `${100 * ROOM}%`,
        height: `${100 * ROOM}%`,
        backgroundImage: `linear-gradient(${line}), linear-gradient(90deg, ${line})`,
        backgroundSize: `${cell}px ${cell}px`,
        transform: `translate(${shift(view.x) - cell * growth}px, ${shift(view.y) - cell * growth}px) scale(${growth})`,
      }}
    />
  );
}
