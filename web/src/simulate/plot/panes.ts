// A result divided into plots: one for each unit, and one for the phase of phasors.
import type { BandLook, CurveLook, PlotNote, RunLook } from "../../api/types";

/** What a curve is called: its formula, and in a family the value it was run with. */
export const nameOf = (curve: CurveLook) =>
  curve.member ? `${curve.text}, ${curve.member.label}` : curve.text;

/** Whether it is one of the many builds of a tolerance study. */
export const isBuild = (curve: CurveLook) => curve.member?.role === "build";

export interface Trace {
  name: string;
  formula: string;
  /** Written at the curve: in a family of one formula, the value alone. */
  label: string;
  hue: number;
  y: (number | null)[];
  /** Words tied to a place: where on the axis, and what. */
  notes?: { at: number; text: string }[];
  /** Counted on the axis at the right. */
  aside?: boolean;
  /** A formula of parts alone: drawn as what is done by hand is. */
  byHand?: boolean;
}

export interface Pane {
  key: string;
  title: string;
  unit: string;
  traces: Trace[];
  /** The unit of the axis at the right, where some are counted on it. */
  side?: string;
  /** Pass bands to be marked; sizes are in the pane's own unit. */
  bands?: BandLook[];
}

/** How the plots are looked at. */
export interface Looks {
  form: Form;
  isWrapped: boolean;
  /** Of phasors, which of the two are drawn. */
  magnitude: boolean;
  phase: boolean;
  /** Two units in one plot, the second on an axis at the right. */
  together: boolean;
}

export const PLAIN_LOOKS: Looks = {
  form: "decibels",
  isWrapped: false,
  magnitude: true,
  phase: true,
  together: false,
};

/** How phasors are drawn: size and phase, real and imaginary part, or as a path in the plane. */
export type Form = "decibels" | "plain" | "parts" | "path";

const LONGEST = 18; // letters of a name at a curve

const shortened = (name: string) =>
  name.length > LONGEST ? `${name.slice(0, LONGEST - 1)}…` : name;

function labelOf(curve: CurveLook, isOne: boolean): string {
  if (curve.member?.role === "nominal") return curve.text;
  if (isBuild(curve)) return "";
  return curve.member && isOne ? curve.member.key : shortened(nameOf(curve));
}

/** An angle between −180° and 180°. */
const wrapped = (angle: number | null) =>
  angle === null ? null : angle - 360 * Math.ceil((angle - 180) / 360);

const decibels = (y: (number | null)[]) =>
  y.map((v) => (v === null || v <= 0 ? null : 20 * Math.log10(v)));

const turned = (curve: CurveLook, part: (angle: number) => number) =>
  curve.y.map((size, k) => {
    const angle = curve.phase?.[k];
    return size === null || angle == null ? null : size * part((angle * Math.PI) / 180);
  });

/** Hidden curves leave their place, so that the others keep their hues. */
export function panesOf(
  look: RunLook,
  looks: Looks,
  hidden: Set<string>,
  notes: PlotNote[] = [],
): Pane[] {
  const { form, isWrapped } = looks;
  const panes = new Map<string, Pane>();
  const put = (key: string, title: string, unit: string, trace: Trace) => {
    const pane = panes.get(key) ?? { key, title, unit, traces: [] };
    pane.traces.push(trace);
    panes.set(key, pane);
  };
  const isOne = new Set(look.curves.map((curve) => curve.text)).size === 1;
  const named = (curve: CurveLook) => ({
    name: nameOf(curve),
    formula: curve.text,
    label: labelOf(curve, isOne),
    notes: notes.filter(
      (note) => note.curve === curve.text && note.member === (curve.member?.key ?? ""),
    ),
    ...(curve.by_hand ? { byHand: true } : {}),
  });
  const seen = (curve: CurveLook) => !hidden.has(nameOf(curve));
  // The builds of a tolerance study are of one hue each formula, the one as drawn among them.
  const texts = [...new Set(look.curves.map((curve) => curve.text))];
  const isStudy = look.curves.some(isBuild);
  const hueOf = (curve: CurveLook, place: number) => (isStudy ? texts.indexOf(curve.text) : place);
  look.curves.forEach((curve, place) => {
    const hue = hueOf(curve, place);
    if (!seen(curve)) return;
    const trace = { ...named(curve), hue };
    if (curve.phase && (form === "path" || (form !== "parts" && !looks.magnitude))) return;
    if (curve.phase && form === "parts") {
      put("real", "Real part", curve.unit, { ...trace, y: turned(curve, Math.cos) });
      put("imaginary", "Imaginary part", curve.unit, { ...trace, y: turned(curve, Math.sin) });
    } else if (curve.phase && form === "decibels")
      put("dB", "Magnitude", "dB", { ...trace, y: decibels(curve.y) });
    else put(curve.unit, curve.phase ? "Magnitude" : "", curve.unit, { ...trace, y: curve.y });
  });
  look.curves.forEach((curve, place) => {
    const hue = hueOf(curve, place);
    if (curve.phase && looks.phase && seen(curve) && (form === "decibels" || form === "plain"))
      put("phase", "Phase", "°", {
        ...named(curve),
        notes: [],
        hue,
        y: isWrapped ? curve.phase.map(wrapped) : curve.phase,
      });
  });
  const first = look.curves.find((curve) => seen(curve) && curve.band);
  const marked = first?.band && panes.get(form === "decibels" ? "dB" : first.unit);
  if (marked && first.band) marked.bands = [first.band];
  const all = [...panes.values()];
  return looks.together ? sharing(all) : all;
}

/** The first two plots as one, the second's curves on an axis of their own at the right. */
function sharing([left, right, ...others]: Pane[]): Pane[] {
  if (!left || !right) return left ? [left] : [];
  const title =
    left.title && right.title ? `${left.title} and, dashed, ${right.title.toLowerCase()}` : "";
  const aside = right.traces.map((trace) => ({
    ...trace,
    label: left.title ? "" : trace.label,
    aside: true,
  }));
  const one = { ...left, key: `${left.key} ${right.key}`, title, side: right.unit };
  return [{ ...one, traces: [...left.traces, ...aside] }, ...others];
}
