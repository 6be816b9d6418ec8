// What the hand does on a plot: sweep to look closer, press to mark, drag a marker, turn the wheel.
import type uPlot from "uplot";
import type { Marker } from "../../api/types";
import type { Dots } from "./benchDots";
import { inkedAt } from "./marks";
import type { Pane, Trace } from "./panes";
import type { Stretch } from "./stretch";

export type Turn = { factor: number; about: number } | { along: number };

const LEAST_SWEEP = 6; // px
const NEAR = 6; // px from a marker's line that a press still takes hold of it
const DOT = 9; // px from a measured dot that it is pressed, and not the curve it lies on
const STILL = 4; // px that a press may move and be no sweep

export interface Gestures {
  pane: Pane;
  dots: Dots[];
  marks: Marker[];
  /** A place of a curve was pressed, or a measured dot. */
  onMark(at: number, of: Trace | Dots): void;
  /** A marker is being dragged. */
  onMove(mark: number, at: number): void;
  /** The menu of a curve is asked for, at a place of the page. */
  onMenu(at: number, trace: Trace, page: [number, number]): void;
  /** A stretch of the axis was swept to be looked at closer; null: all of it again. */
  onZoom(stretch: Stretch | null): void;
  /** The wheel was turned to look closer, or along the axis by a share of the width. */
  onTurn(turn: Turn): void;
}

// Plots of a run share what is swept: the one that was pressed tells of it.
let pressed: uPlot | null = null;

export const gestures = (told: () => Gestures): uPlot.Plugin => ({
  hooks: {
    setSelect: (u) => {
      const { select, posToVal } = u;
      if (select.width < LEAST_SWEEP || pressed !== u) return;
      told().onZoom([posToVal(select.left, "x"), posToVal(select.left + select.width, "x")]);
    },
    ready: (u) => {
      // A plain wheel scrolls the page; with Control it looks closer, with Shift or sideways along.
      const wheel = (event: WheelEvent) => {
        const isSideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
        if (!event.ctrlKey && !isSideways) return;
        event.preventDefault();
        const by = isSideways ? event.deltaX || event.deltaY : event.deltaY;
        const about = u.posToVal(u.cursor.left ?? 0, "x");
        told().onTurn(
          isSideways ? { along: by / u.over.clientWidth } : { factor: Math.exp(by / 400), about },
        );
      };
      u.over.addEventListener("wheel", wheel, { passive: false });
      let held: number | null = null;
      let from = 0;
      const along = (event: MouseEvent) => {
        const { left, width } = u.over.getBoundingClientRect();
        return Math.min(Math.max(event.clientX - left, 0), width);
      };
      const markAt = (event: MouseEvent) =>
        told().marks.findIndex((mark) => Math.abs(u.valToPos(mark.at, "x") - along(event)) < NEAR);
      u.over.addEventListener("pointerdown", (event) => {
        from = event.clientX;
        pressed = u;
        const mark = event.button ? -1 : markAt(event);
        if (mark < 0) return;
        held = mark;
        u.over.setPointerCapture(event.pointerId);
      });
      // A marker that is held is no sweep.
      u.over.addEventListener(
        "mousedown",
        (event) => held !== null && event.stopImmediatePropagation(),
        { capture: true },
      );
      u.over.addEventListener("pointermove", (event) => {
        u.over.style.cursor = markAt(event) >= 0 ? "ew-resize" : "";
        if (held !== null && Math.abs(event.clientX - from) >= STILL)
          told().onMove(held, u.posToVal(along(event), "x"));
      });
      const release = () => {
        held = null;
      };
      u.over.addEventListener("pointerup", release);
      u.over.addEventListener("pointercancel", release);
      u.over.addEventListener("dblclick", () => told().onZoom(null));
      u.over.addEventListener("click", (event) => {
        if (Math.abs(event.clientX - from) >= STILL) return;
        const dot = dotUnder(u, told().dots, event);
        if (dot) {
          told().onMark(dot.at, dot.of);
          return;
        }
        const trace = nearest(u, told().pane, event);
        if (trace) told().onMark(u.posToVal(along(event), "x"), trace);
      });
      u.over.addEventListener("contextmenu", (event) => {
        event.preventDefault();
        const trace = nearest(u, told().pane, event);
        const at = u.posToVal(along(event), "x");
        if (trace) told().onMenu(at, trace, [event.clientX, event.clientY]);
      });
    },
  },
});

/** The measured dot under the hand. */
function dotUnder(u: uPlot, all: Dots[], event: MouseEvent): { at: number; of: Dots } | null {
  const { left, top } = u.over.getBoundingClientRect();
  let best: { at: number; of: Dots } | null = null;
  let least = DOT;
  for (const of of all)
    of.x.forEach((at, k) => {
      const y = of.y[k];
      if (y === undefined || !Number.isFinite(y)) return;
      const away = Math.hypot(
        u.valToPos(at, "x") - (event.clientX - left),
        u.valToPos(y, of.scale) - (event.clientY - top),
      );
      if (away < least) [best, least] = [{ at, of }, away];
    });
  return best;
}

/** The curve that is nearest above or below where the hand is. */
function nearest(u: uPlot, pane: Pane, event: MouseEvent): Trace | null {
  const { left, top } = u.over.getBoundingClientRect();
  const at = u.posToVal(event.clientX - left, "x");
  let best: Trace | null = null;
  let least = Number.POSITIVE_INFINITY;
  pane.traces.forEach((trace, k) => {
    const y = inkedAt(u, pane, k, at);
    const gap = Math.abs((y ?? Number.POSITIVE_INFINITY) - (event.clientY - top));
    if (trace.label && gap < least) [best, least] = [trace, gap];
  });
  return best ?? pane.traces[0] ?? null;
}
