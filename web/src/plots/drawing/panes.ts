// A result divided into plots: as was chosen, else one for each unit, and one for the phase of phasors.
import type { BandLook, CurveLook, PlotNote, RunLook } from "../../api/types";

/** What a curve is called: its formula, and in a family the value it was run with. */
export const nameOf = (curve: CurveLook) =>
  curve.member ? `${curve.text}, ${curve.member.label}` : curve.text;

/** Whether it is one of the many builds of a tolerance study. */
export const isBuild = (curve: CurveLook) => curve.member?.role === "build";

export interface Trace {
  name: string;
  formula: string;
  /** The key of its member of a family; "" where there is none. */
  member: string;
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

/** What of a curve a plot shows: the value itself, or of phasors a part. */
export type Part = "value" | "decibels" | "phase" | "real" | "imaginary";

export interface Pane {
  key: string;
  title: string;
  unit: string;
  part: Part;
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

/** Which formulas share a plot, and which have a scale of their own at the right. */
export interface Arrangement {
  plots: string[][];
  aside: string[];
}

const PLAIN: Arrangement = { plots: [], aside: [] };
const LONGEST = 18; // letters of a name at a curve
const FLAT = 100; // how many times smaller a curve is than another that would make it a flat line

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

/** What a plot shows of a value and its phase [°]. */
export function shownAs(part: Part, value: number | null, phase: number | null): number | null {
  if (part === "phase") return phase;
  if (value === null || part === "value") return value;
  if (part === "decibels") return value > 0 ? 20 * Math.log10(value) : null;
  if (phase === null) return null;
  const angle = (phase * Math.PI) / 180;
  return value * (part === "real" ? Math.cos(angle) : Math.sin(angle));
}

/** The plots that what was not put anywhere goes to: those too small to be seen beside the largest of
 * their unit have one of their own. */
function proposed(look: RunLook, { plots, aside }: Arrangement): string[][] {
  const placed = new Set([...plots.flat(), ...aside]);
  const sizes = new Map<string, Map<string, number>>();
  for (const { text, unit, y, phase } of look.curves) {
    if (phase || placed.has(text)) continue;
    const size = y.reduce<number>((most, v) => Math.max(most, Math.abs(v ?? 0)), 0);
    const ofUnit = sizes.get(unit) ?? new Map<string, number>();
    ofUnit.set(text, Math.max(size, ofUnit.get(text) ?? 0));
    sizes.set(unit, ofUnit);
  }
  return [...sizes.values()].flatMap((ofUnit) => {
    const largest = Math.max(...ofUnit.values());
    const small = [...ofUnit].filter(([, size]) => size > 0 && size * FLAT <= largest);
    return small.length ? [small.map(([text]) => text)] : [];
  });
}

/** Hidden curves leave their place, so that the others keep their hues. */
export function panesOf(
  look: RunLook,
  looks: Looks,
  hidden: Set<string>,
  notes: PlotNote[] = [],
  arrangement: Arrangement = PLAIN,
): Pane[] {
  const { form, isWrapped } = looks;
  const panes = new Map<string, Pane>();
  const groups = [...arrangement.plots, ...proposed(look, arrangement)];
  const groupOf = new Map(groups.flatMap((texts, k) => texts.map((text) => [text, `${k} `])));
  const put = (key: string, title: string, unit: string, part: Part, trace: Trace) => {
    const group = groupOf.get(trace.formula) ?? "";
    // A plot that was made holds what was put there, two units too; else each unit has its own.
    const own = group && part === "value" ? group : `${group}${key}`;
    const pane = panes.get(own) ?? { key: own, title, unit, part, traces: [] };
    const isAside = part !== "phase" && arrangement.aside.includes(trace.formula);
    if ((isAside || pane.unit !== unit) && (pane.side ?? unit) === unit) {
      pane.side = unit;
      pane.traces.push({ ...trace, aside: true });
      panes.set(own, pane);
    } else if (pane.unit === unit) {
      pane.traces.push(trace);
      panes.set(own, pane);
    } else {
      const third = panes.get(`${own} ${unit}`) ?? { ...pane, key: `${own} ${unit}`, unit };
      if (third.traces === pane.traces) third.traces = [];
      third.traces.push(trace);
      panes.set(third.key, third);
    }
  };
  const isOne = new Set(look.curves.map((curve) => curve.text)).size === 1;
  const named = (curve: CurveLook) => ({
    name: nameOf(curve),
    formula: curve.text,
    member: curve.member?.key ?? "",
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
  const shown = (curve: CurveLook, part: Part) =>
    part === "value"
      ? curve.y
      : curve.y.map((size, k) => shownAs(part, size, curve.phase?.[k] ?? null));
  look.curves.forEach((curve, place) => {
    if (!seen(curve)) return;
    const drawn = (part: Part): Trace => ({
      ...named(curve),
      hue: hueOf(curve, place),
      y: shown(curve, part),
    });
    if (curve.phase && (form === "path" || (form !== "parts" && !looks.magnitude))) return;
    if (curve.phase && form === "parts") {
      put("real", "Real part", curve.unit, "real", drawn("real"));
      put("imaginary", "Imaginary part", curve.unit, "imaginary", drawn("imaginary"));
    } else if (curve.phase && form === "decibels")
      put("dB", "Magnitude", "dB", "decibels", drawn("decibels"));
    else put(curve.unit, curve.phase ? "Magnitude" : "", curve.unit, "value", drawn("value"));
  });
  look.curves.forEach((curve, place) => {
    if (curve.phase && looks.phase && seen(curve) && (form === "decibels" || form === "plain"))
      put("phase", "Phase", "°", "phase", {
        ...named(curve),
        notes: [],
        hue: hueOf(curve, place),
        y: isWrapped ? curve.phase.map(wrapped) : curve.phase,
      });
  });
  for (const pane of panes.values()) {
    const of = (text: string) => look.curves.find((curve) => seen(curve) && curve.text === text);
    const [first] =
      pane.part === "phase" ? [] : pane.traces.flatMap((t) => of(t.formula)?.band ?? []);
    if (first && pane.part !== "real" && pane.part !== "imaginary") pane.bands = [first];
  }
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
