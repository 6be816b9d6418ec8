// What the hand does on a plot: sweep to look closer, press to mark, turn the wheel.
import type uPlot from "uplot";
import type { Stretch } from "./stretch";

export type Turn = { factor: number; about: number } | { along: number };

const LEAST_SWEEP = 6; // px

export interface Gestures {
  onMark(place: number): void;
  /** A stretch of the axis was swept to be looked at closer; null: all of it again. */
  onZoom(stretch: Stretch | null): void;
  /** The wheel was turned to look closer, or along the axis by a share of the width. */
  onTurn(turn: Turn): void;
}

export const gestures = (told: () => Gestures): uPlot.Plugin => ({
  hooks: {
    setSelect: ({ select, posToVal }) => {
      if (select.width < LEAST_SWEEP) return;
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
      let from = 0;
      u.over.addEventListener("pointerdown", (event) => {
        from = event.clientX;
      });
      u.over.addEventListener("dblclick", () => told().onZoom(null));
      u.over.addEventListener("click", (event) => {
        if (Math.abs(event.clientX - from) < 4 && u.cursor.idx != null) told().onMark(u.cursor.idx);
      });
    },
  },
});
