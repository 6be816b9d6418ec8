// How curves are told apart: by hue, dash and width.
import type { Trace } from "./panes";

export const HUES = 6;
export const FAMILY = '"Commissioner Variable", system-ui, sans-serif';
const LINE = 1.8; // px
const FAINT = 0.6; // px, of the many builds of a tolerance study

/** Of a name of a colour, or of a trace: what it is drawn with, in the theme of now. */
export interface Inks {
  colour(name: string): string;
  of(trace: Trace): string;
}

export function inks(): Inks {
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  return { colour, of: (trace) => colour(inkOf(trace)) };
}

/** The name of a curve's colour: its own hue, or a pencil's where it was worked out by hand. */
export const inkOf = (trace: Trace) =>
  trace.byHand ? "--hand" : `--curve-${(trace.hue % HUES) + 1}`;

export const isDashed = (trace: Trace) => trace.byHand || (trace.aside && !trace.label);

export const widthOf = (trace: Trace) => (trace.label || trace.aside ? LINE : FAINT);

export const scaleOf = (trace: Trace) => (trace.aside ? "side" : "y");
