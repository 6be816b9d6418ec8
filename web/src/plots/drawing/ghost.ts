// The curves as they were before the circuit was changed, faint behind those that are.
import type uPlot from "uplot";
import { type Inks, scaleOf } from "./inks";
import type { Pane, Trace } from "./panes";

export interface Ghost {
  x: number[];
  pane: Pane | undefined;
}

export const ghostLayer = (ghost: () => Ghost | null, { of }: Inks): uPlot.Plugin => ({
  hooks: { drawAxes: (u) => haunted(u, ghost(), of) },
});

function haunted(u: uPlot, ghost: Ghost | null, hue: (trace: Trace) => string): void {
  if (!ghost?.pane) return;
  const { ctx, bbox } = u;
  ctx.save();
  ctx.beginPath();
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height);
  ctx.clip();
  ctx.globalAlpha = 0.4;
  ctx.lineWidth = devicePixelRatio;
  for (const trace of ghost.pane.traces) {
    ctx.strokeStyle = hue(trace);
    ctx.beginPath();
    ghost.x.forEach((at, i) => {
      const value = trace.y[i];
      if (value != null)
        ctx.lineTo(u.valToPos(at, "x", true), u.valToPos(value, scaleOf(trace), true));
    });
    ctx.stroke();
  }
  ctx.restore();
}
