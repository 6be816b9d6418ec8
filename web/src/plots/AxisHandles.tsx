// The ends of a run's axis, to be dragged: how long, and from where to where.
import { ChevronsLeftRight } from "lucide-react";
import { type PointerEvent, type RefObject, useState } from "react";
import type { Run, RunLook } from "../api/types";
import { engineering } from "../ui/engineering";
import { changeRun } from "./changeRun";
import type { Made } from "./drawing/Plot";

// Which setting each end is.
const ENDS: Record<string, { first: string; last: string }> = {
  transient: { first: "start", last: "stop" },
  frequency_sweep: { first: "from", last: "to" },
  dc_sweep: { first: "from", last: "to" },
};
const STRIDE = 0.05; // of the axis, for an arrow key

interface Props {
  run: Run;
  look: RunLook;
  isLog: boolean;
  plots: RefObject<Map<string, Made>>;
  /** px right of the axis. */
  margin: number;
}

export function AxisHandles({ run, look, isLog, plots, margin }: Props) {
  const [held, setHeld] = useState<{ key: string; value: number } | null>(null);
  const ends = ENDS[run.analysis];
  if (!ends) return null;
  const [low, high] = [look.x[0] as number, look.x.at(-1) as number];
  const write = (key: string, value: number) =>
    changeRun(run.id, (own) => {
      own.settings[key] = engineering(value, look.axis_unit, 3).replace("\u00a0", " ");
    });
  /** What stands on the axis at a place on the screen, beyond its ends too. */
  const under = (event: PointerEvent): number | null => {
    const [first] = plots.current.values();
    if (!first) return null;
    const { left } = first.u.over.getBoundingClientRect();
    const value = first.u.posToVal(event.clientX - left, "x");
    return Number.isFinite(value) ? value : null;
  };
  const allowed = (isLast: boolean, value: number) => {
    if (isLast) return value > low;
    return value < high && (run.analysis !== "transient" || value >= 0);
  };
  const along = (from: number, by: number) =>
    isLog ? from * (high / low) ** by : from + by * (high - low);
  return (
    <div className="relative h-5 print:hidden" style={{ marginLeft: 66, marginRight: margin }}>
      {(["first", "last"] as const).map((end) => {
        const isLast = end === "last";
        const key = ends[end];
        const now = isLast ? high : low;
        const told = held?.key === key ? held.value : now;
        return (
          <button
            key={end}
            type="button"
            aria-label={`${isLast ? "End" : "Start"} of the axis, ${engineering(now, look.axis_unit, 3)}; drag it, or arrow keys`}
            title={isLast ? "Drag to extend or shorten" : "Drag to start elsewhere"}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              setHeld({ key, value: now });
            }}
            onPointerMove={(event) => {
              const value = held && under(event);
              if (value != null && allowed(isLast, value)) setHeld({ key, value });
            }}
            onPointerUp={() => {
              if (held && held.value !== now) write(key, held.value);
              setHeld(null);
            }}
            onPointerCancel={() => setHeld(null)}
            onKeyDown={(event) => {
              const way = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
              if (!way) return;
              event.preventDefault();
              event.stopPropagation();
              const value = along(now, way * STRIDE);
              if (allowed(isLast, value)) write(key, value);
            }}
            className={`absolute top-0 flex h-5 cursor-ew-resize touch-none items-center gap-1 rounded-full px-1 text-xs text-soft hover:bg-ruling hover:text-ink ${isLast ? "right-0 translate-x-1/2" : "left-0 -translate-x-1/2"}`}
          >
            <ChevronsLeftRight size={14} />
            {held?.key === key && (
              <span className="figure absolute -top-6 left-1/2 -translate-x-1/2 rounded bg-ink px-1.5 py-0.5 whitespace-nowrap text-paper">
                {engineering(told, look.axis_unit, 3)}
              </span>
            )}
          </button>
        );
      })}
    </div>
  );
}
