// A result divided into plots: one for each unit, and one for the phase of phasors.
import type { CurveLook, RunLook } from "../api/types";

export interface Trace {
  name: string;
  hue: number;
  y: (number | null)[];
}

export interface Pane {
  key: string;
  title: string;
  unit: string;
  traces: Trace[];
}

export type Magnitude = "decibels" | "plain";

const decibels = (y: (number | null)[]) =>
  y.map((v) => (v === null || v <= 0 ? null : 20 * Math.log10(v)));

/** Hidden curves leave their place, so that the others keep their hues. */
export function panesOf(look: RunLook, magnitude: Magnitude, hidden: Set<string>): Pane[] {
  const panes = new Map<string, Pane>();
  const put = (key: string, title: string, unit: string, trace: Trace) => {
    const pane = panes.get(key) ?? { key, title, unit, traces: [] };
    pane.traces.push(trace);
    panes.set(key, pane);
  };
  const seen = (curve: CurveLook) => !hidden.has(curve.text);
  look.curves.forEach((curve, hue) => {
    if (!seen(curve)) return;
    const trace = { name: curve.text, hue };
    if (curve.phase && magnitude === "decibels")
      put("dB", "Magnitude", "dB", { ...trace, y: decibels(curve.y) });
    else put(curve.unit, curve.phase ? "Magnitude" : "", curve.unit, { ...trace, y: curve.y });
  });
  look.curves.forEach((curve, hue) => {
    if (curve.phase && seen(curve))
      put("phase", "Phase", "°", { name: curve.text, hue, y: curve.phase });
  });
  return [...panes.values()];
}
