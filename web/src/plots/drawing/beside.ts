// Which dots of the bench belong into which plot, in its own unit, and the plots of what is left over.
import type { BenchCurveLook, BesideLook, GapLook, RunLook } from "../../api/types";
import type { Band, Dots } from "./benchDots";
import { drawnAt } from "./marks";
import type { Pane } from "./panes";

const PER_NEPER = 20 / Math.LN10; // dB

/** The dots of each plot, by its key. A curve that no plot shows goes to the first of its unit. */
export function dotsIn(
  panes: Pane[],
  beside: BesideLook | null,
  look: RunLook,
): Map<string, Dots[]> {
  const found = new Map<string, Dots[]>();
  for (const curve of beside?.curves ?? []) {
    const own = panes.filter((pane) => pane.traces.some((t) => t.formula === curve.text));
    const others = panes.filter((pane) => pane.unit === curve.unit && pane.part === "value");
    for (const pane of own.length ? own : others.slice(0, 1)) {
      const dots = dotsOf(curve, pane, look, found.get(pane.key)?.length ?? 0);
      if (dots) found.set(pane.key, [...(found.get(pane.key) ?? []), dots]);
    }
  }
  return found;
}

function dotsOf(curve: BenchCurveLook, pane: Pane, look: RunLook, before: number): Dots | null {
  const trace = pane.traces.find((t) => t.formula === curve.text);
  const scale = trace?.aside ? "side" : "y";
  const common = {
    name: `${curve.text}, ${curve.name}`,
    formula: `bench(${curve.text})`,
    member: curve.record,
    x: curve.x,
    isSquare: before % 2 === 1,
    scale,
  } as const;
  if (pane.part === "phase") {
    if (!curve.phase) return null;
    // Whole turns are no difference: the dots go along with the curve.
    const there = trace && drawnAt(look.x, trace.y, curve.x[0] ?? 0, look.is_log);
    const turns = 360 * Math.round(((there ?? 0) - (curve.phase[0] ?? 0)) / 360);
    const y = curve.phase.map((angle) => angle + (there == null ? 0 : turns));
    return { ...common, y, errors: curve.phase_errors ?? [] };
  }
  if (pane.part === "decibels") {
    const y = curve.y.map((size) => 20 * Math.log10(size));
    return {
      ...common,
      y,
      errors: curve.errors.map((e, k) => (PER_NEPER * e) / (curve.y[k] || 1)),
    };
  }
  if (pane.part === "value") return { ...common, y: curve.y, errors: curve.errors };
  if (!curve.phase) return null;
  const turn = pane.part === "real" ? Math.cos : Math.sin;
  const y = curve.y.map((size, k) => size * turn(((curve.phase?.[k] ?? 0) * Math.PI) / 180));
  return { ...common, y, errors: curve.errors };
}

export interface GapPane {
  pane: Pane;
  dots: Dots[];
  band: Band;
}

/** Bench less simulated, a plot for each curve of a record, and one of the phase. */
export function gapPanes(beside: BesideLook | null, look: RunLook): GapPane[] {
  return (beside?.gaps ?? []).flatMap((gap) => {
    const size = paneOf(gap, gap.unit, "", gap.less, gap.allowed, look);
    if (!gap.angle) return [size];
    return [size, paneOf(gap, "°", " in phase", gap.angle, gap.angle_allowed ?? [], look)];
  });
}

function paneOf(
  gap: GapLook,
  unit: string,
  of: string,
  less: number[],
  allowed: number[],
  look: RunLook,
): GapPane {
  const zero = { name: gap.text, formula: gap.text, member: "", label: "", hue: 0 };
  return {
    pane: {
      key: `gap ${gap.record} ${gap.text}${of}`,
      title: `Bench − simulated${of}`,
      unit,
      part: "value",
      traces: [{ ...zero, y: look.x.map(() => 0) }],
    },
    dots: [
      {
        name: "",
        formula: "",
        member: "",
        x: gap.x,
        y: less,
        errors: [],
        isSquare: false,
        scale: "y",
      },
    ],
    band: { x: gap.x, half: allowed },
  };
}
