// A result divided into plots: one for each unit, and one for the phase of phasors.
import type { CurveLook, RunLook } from "../api/types";

/** What a curve is called: its formula, and in a family the value it was run with. */
export const nameOf = (curve: CurveLook) =>
  curve.member ? `${curve.text}, ${curve.member}` : curve.text;

export interface Trace {
  name: string;
  /** Written at the curve: in a family of one formula, the value alone. */
  label: string;
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
  const isOne = new Set(look.curves.map((curve) => curve.text)).size === 1;
  const named = (curve: CurveLook) => ({
    name: nameOf(curve),
    label: curve.member && isOne ? (curve.member.split(" = ")[1] ?? "") : nameOf(curve),
  });
  const seen = (curve: CurveLook) => !hidden.has(nameOf(curve));
  look.curves.forEach((curve, hue) => {
    if (!seen(curve)) return;
    const trace = { ...named(curve), hue };
    if (curve.phase && magnitude === "decibels")
      put("dB", "Magnitude", "dB", { ...trace, y: decibels(curve.y) });
    else put(curve.unit, curve.phase ? "Magnitude" : "", curve.unit, { ...trace, y: curve.y });
  });
  look.curves.forEach((curve, hue) => {
    if (curve.phase && seen(curve))
      put("phase", "Phase", "°", { ...named(curve), hue, y: curve.phase });
  });
  return [...panes.values()];
}
