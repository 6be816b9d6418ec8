// The axes of a plot: their ranges, where ticks stand, and what is written at them.
import type uPlot from "uplot";
import { engineering, scaleFor } from "../../ui/engineering";
import { logTicks } from "../../ui/ticks";
import { FAMILY, type Inks } from "./inks";
import type { Pane } from "./panes";

export const SIDE = 54; // px of the axis at the right
const LABEL = 50; // px along the axis for each label, on average

/** The axis of a scale: its ticks, its labels where they are shown, and its lines over the plot. */
export function axisOf(
  scale: "x" | "y" | "side",
  unit: string,
  { isLog, isShown }: { isLog: boolean; isShown: boolean },
  { colour }: Inks,
): uPlot.Axis {
  return {
    scale,
    side: { x: 2, y: 3, side: 1 }[scale],
    stroke: colour("--ink-soft"),
    font: `12px ${FAMILY}`,
    grid: { stroke: `${colour("--hairline")}70`, width: 1, show: scale !== "side" },
    ticks: { stroke: colour("--hairline"), width: 1, size: 4 },
    size: scale === "y" ? 62 : scale === "side" ? SIDE : isShown ? 32 : 12,
    ...(isLog
      ? { splits: (_: uPlot, __: number, low: number, high: number) => logTicks(low, high) }
      : {}),
    // All that are drawn: which of them are labelled is decided there.
    filter: (_, ticks) => ticks,
    values: (u, ticks) => {
      if (!isShown) return ticks.map(() => "");
      const texts = labels(ticks, unit, isLog);
      return scale === "x" ? apart(texts, u.bbox.width / devicePixelRatio) : texts;
    },
  };
}

/** The numbers as the plot takes them; by logarithm what is not above zero is a gap. */
export const poured = (x: number[], pane: Pane, isLogY: boolean): uPlot.AlignedData => [
  x,
  ...pane.traces.map((trace) =>
    isLogY && !trace.aside ? trace.y.map((v) => (v !== null && v > 0 ? v : null)) : trace.y,
  ),
];

export function decadesRoomy(_: uPlot, low: number | null, high: number | null): [number, number] {
  if (low === null || high === null || !(low > 0)) return [0.1, 1];
  return low < high ? [low / 1.15, high * 1.15] : [low / 2, high * 2];
}

/** Limits as typed, else those of the data. */
export const within =
  ([low, high]: [number | null, number | null]) =>
  (u: uPlot, least: number | null, most: number | null): [number, number] => {
    const [a, b] = roomy(u, least, most);
    const [from, to] = [low ?? a, high ?? b];
    return from < to ? [from, to] : [a, b];
  };

const ROUNDING = 1e-9; // of the largest value

type Range = (u: uPlot, low: number | null, high: number | null) => [number, number];

/** A range that reaches over what else is drawn too. */
export const reaching =
  (range: Range, reach: () => [number, number] | null): Range =>
  (u, low, high) => {
    const more = reach();
    if (!more) return range(u, low, high);
    return range(u, Math.min(low ?? more[0], more[0]), Math.max(high ?? more[1], more[1]));
  };

/** The range of the data with a little air, and never of no height: what differs by rounding is flat. */
export function roomy(_: uPlot, low: number | null, high: number | null): [number, number] {
  if (low === null || high === null) return [0, 1];
  const largest = Math.max(Math.abs(low), Math.abs(high));
  const height = high - low > ROUNDING * largest ? high - low : 0;
  const air = height * 0.06 || largest * 0.1 || 1;
  return [low - air, high + air];
}

/** What stands at the ticks: the unit once, at the last of them. */
function labels(ticks: (number | null)[], unit: string, isLog: boolean): string[] {
  if (isLog) {
    // Powers of ten; within a decade or two the 2 and 5 between them, then every one.
    const first = (tick: number) => Number(tick.toExponential(6).split("e")[0]);
    const kept = [[1], [1, 2, 5], [1, 2, 3, 4, 5, 6, 7, 8, 9]].find(
      (some) => ticks.filter((tick) => tick !== null && some.includes(first(tick))).length > 1,
    );
    return ticks.map((tick) =>
      tick !== null && (!kept || kept.includes(first(tick))) ? engineering(tick, unit) : "",
    );
  }
  const plain = ticks.map((tick) => tick ?? 0);
  const size = Math.max(...plain.map(Math.abs), 0);
  const { factor, prefix } = unit === "°" || unit === "dB" || !unit ? scaleFor(1) : scaleFor(size);
  const isWhole = (number: number) => Math.abs(number - Math.round(number)) < 1e-6;
  let decimals = 0;
  while (decimals < 6 && !plain.every((tick) => isWhole((tick / factor) * 10 ** decimals)))
    decimals += 1;
  const texts = plain.map((tick) => (tick / factor).toFixed(decimals).replace("-", "−"));
  return texts.map((text, k) =>
    k === texts.length - 1 ? `${text} ${prefix}${unit}`.trimEnd() : text,
  );
}

/** Every second label left out, and again, until they keep clear of each other. */
function apart(texts: string[], width: number): string[] {
  const places = texts.flatMap((text, k) => (text ? [k] : []));
  let stride = 1;
  while ((places.length / stride) * LABEL > width) stride *= 2;
  const kept = new Set(places.filter((_, n) => n % stride === 0));
  return texts.map((text, k) => (kept.has(k) ? text : ""));
}
