// Handles below the plots: each record in time is drawn along by its own.
import { type PointerEvent, type RefObject, useState } from "react";
import type { BesideLook, RunLook } from "../api/types";
import { useExercise } from "../document/store";
import { engineering } from "../ui/engineering";
import type { Made } from "./drawing/Plot";

interface Props {
  look: RunLook;
  beside: BesideLook | null;
  plots: RefObject<Map<string, Made>>;
  /** px right of the axis. */
  margin: number;
}

const STRIDE = 0.002; // of the axis, for an arrow key

export function RecordHandles({ look, beside, plots, margin }: Props) {
  const [held, setHeld] = useState<{ id: string; from: number; by: number } | null>(null);
  const records = beside?.offered.filter(({ shown }) => shown) ?? [];
  if (look.axis !== "t" || !records.length) return null;
  const [low, high] = [look.x[0] as number, look.x.at(-1) as number];
  const under = (event: PointerEvent): number => {
    const [first] = plots.current.values();
    const left = first?.u.over.getBoundingClientRect().left ?? 0;
    return first?.u.posToVal(event.clientX - left, "x") ?? 0;
  };
  return (
    <div className="relative h-5 print:hidden" style={{ marginLeft: 66, marginRight: margin }}>
      {records.map(({ id, name, shift }) => {
        const own = beside?.curves.find((curve) => curve.record === id);
        const start = own?.x[0];
        if (start === undefined) return null;
        const by = held?.id === id ? held.by : 0;
        const share = Math.min(Math.max((start + by - low) / (high - low), 0), 1);
        return (
          <button
            key={id}
            type="button"
            aria-label={`Move ${name} along the axis, now by ${engineering(shift, "s", 3)}; drag it, or arrow keys`}
            title={`Drag ${name} along`}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              setHeld({ id, from: under(event), by: 0 });
            }}
            onPointerMove={(event) => {
              if (held?.id === id) setHeld({ ...held, by: under(event) - held.from });
            }}
            onPointerUp={() => {
              if (held?.by) moved(id, held.by);
              setHeld(null);
            }}
            onPointerCancel={() => setHeld(null)}
            onKeyDown={(event) => {
              const way = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
              if (!way) return;
              event.preventDefault();
              event.stopPropagation();
              moved(id, way * (event.shiftKey ? 20 : 1) * STRIDE * (high - low));
            }}
            className="absolute top-0.5 flex h-4 cursor-ew-resize touch-none items-center rounded-full bg-bench px-1.5 text-[11px] text-paper"
            style={{ left: `${100 * share}%` }}
          >
            {by ? engineering(shift + by, "s", 3) : "◂▸"}
          </button>
        );
      })}
    </div>
  );
}

function moved(id: string, by: number): void {
  useExercise.getState().edit((document) => {
    const own = document.records.find((record) => record.id === id);
    if (own) own.shift += by;
  }, `move ${id}`);
}
