// Markers set and moved, by the mouse and by keys.
import type { KeyboardEvent } from "react";
import type { Marker, RunLook } from "../api/types";
import type { Pane, Trace } from "./drawing/panes";
import { tracesOf } from "./MarkerTable";
import type { Markers } from "./useMarkers";

const STEPS = 400; // arrow keys from one end of the axis to the other
const APART = 0.1; // of the axis: where a second marker begins beside the first

interface Of {
  look: RunLook;
  panes: Pane[];
  isLog: boolean;
  markers: Markers;
  /** Have the axis so much longer about a place. */
  onEnlarge(factor: number, about: number): void;
}

export function useMarking({ look, panes, isLog, markers, onEnlarge }: Of) {
  const { marks, active } = markers;
  const put = (k: number, to: Partial<Marker>, group?: string) =>
    markers.set(
      marks.map((old, n) => (n === k ? { ...old, ...to } : old)),
      group,
    );
  /** The first press sets A, the second B; after that the nearer one comes along. */
  const mark = (to: Marker) => {
    const [a, b] = marks;
    if (!a || !b) {
      markers.set([...marks, to]);
      markers.activate(marks.length);
      return;
    }
    const nearer = Math.abs(a.at - to.at) <= Math.abs(b.at - to.at) ? 0 : 1;
    markers.activate(nearer);
    put(nearer, to);
  };
  const onMark = (at: number, { formula, member }: Trace) => mark({ curve: formula, member, at });
  const onMove = (k: number, at: number) => {
    markers.activate(k);
    put(k, { at }, "marker");
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const [low, high] = [look.x[0] as number, look.x.at(-1) as number];
    const middle = isLog ? Math.sqrt(low * high) : (low + high) / 2;
    const traces = tracesOf(panes);
    const own = marks[active];
    const about = own?.at ?? middle;
    const along = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    const across = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (event.key === "Escape") markers.set([]);
    else if (event.key === "+") onEnlarge(0.5, about);
    else if (event.key === "-") onEnlarge(2, about);
    else if (event.key === "Enter") {
      // B begins on another curve where there is one.
      const next = traces[Math.min(marks.length, traces.length - 1)];
      const beside = isLog ? about * (high / low) ** APART : about + APART * (high - low);
      if (next && marks.length < 2) onMark(own ? Math.min(beside, high) : middle, next);
    } else if (along && own) {
      const share = (along * (event.shiftKey ? 20 : 1)) / STEPS;
      const to = isLog ? about * (high / low) ** share : about + share * (high - low);
      put(active, { at: Math.min(Math.max(to, low), high) }, "marker");
    } else if (along && traces[0]) onMark(middle, traces[0]);
    else if (across && own) {
      const at = traces.findIndex((t) => t.formula === own.curve && t.member === own.member);
      const to = traces[(at + across + traces.length) % traces.length];
      if (to) put(active, { curve: to.formula, member: to.member });
    } else return;
    event.preventDefault();
  };
  return { mark, onMark, onMove, onKeyDown };
}
