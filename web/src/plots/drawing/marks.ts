// What stands at the curves: their names at the ends, notes, and markers.
import type uPlot from "uplot";
import type { Marker } from "../../api/types";
import { LETTERS } from "../../document/runs";
import { paintName } from "../../ui/Named";
import { SIDE } from "./axes";
import type { Dots } from "./benchDots";
import { FAMILY, type Inks, scaleOf } from "./inks";
import type { Pane, Trace } from "./panes";

const ROOM = 12; // px between names of curves
const CLOSE = 16; // px between markers whose letters would meet

/** The value of a curve between its points, as it is drawn; null where there is none. */
export function drawnAt(
  x: ArrayLike<number>,
  y: ArrayLike<number | null | undefined>,
  at: number,
  isLog = false,
): number | null {
  let [low, high] = [0, x.length - 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if ((x[middle] as number) <= at) low = middle;
    else high = middle;
  }
  const [a, b] = [y[low], y[high]];
  if (a == null || b == null) return a ?? b ?? null;
  const bent = isLog ? Math.log : (v: number) => v;
  const [from, to] = [bent(x[low] as number), bent(x[high] as number)];
  const share = to > from ? (bent(at) - from) / (to - from) : 0;
  return a + Math.min(Math.max(share, 0), 1) * (b - a);
}

/** Where the k-th curve of a plot is at a place of the axis [px below the plot's top]. */
export function inkedAt(u: uPlot, pane: Pane, k: number, at: number): number | null {
  const isLog = (u.scales.x as uPlot.Scale).distr === 3;
  const value = drawnAt(u.data[0], u.data[k + 1] ?? [], at, isLog);
  return value === null ? null : u.valToPos(value, scaleOf(pane.traces[k] as Trace));
}

/** Where the letter of a marker stands [px from its line]: on the far side where another is close. */
export function besideLine(u: uPlot, marks: Marker[], k: number): { dx: number; leans: boolean } {
  const away = marks.map((mark) => u.valToPos(mark.at, "x") - u.valToPos(marks[k]?.at ?? 0, "x"));
  const leans = away.some((px, other) => px < CLOSE && (px > 0 || (px === 0 && other > k)));
  return { dx: leans ? -4 : 4, leans };
}

/** Where measured dots are at a place of the axis [px below the plot's top]. */
export function dottedAt(u: uPlot, dots: Dots, at: number): number | null {
  const isLog = (u.scales.x as uPlot.Scale).distr === 3;
  const [first, last] = [dots.x[0] as number, dots.x.at(-1) as number];
  const value = at < first || at > last ? null : drawnAt(dots.x, dots.y, at, isLog);
  return value === null ? null : u.valToPos(value, dots.scale);
}

export const marksLayer = (
  pane: () => Pane,
  dots: () => Dots[],
  marks: () => Marker[],
  { colour, of }: Inks,
): uPlot.Plugin => ({
  hooks: {
    draw: (u) => {
      drawn(u, pane(), marks(), of, colour("--ink"), colour("--raised"));
      ringed(u, dots(), marks(), colour("--bench"));
    },
  },
});

/** Where the curves' names stand at their ends, apart from each other [px below the plot's top]. */
export function endsOf(u: uPlot, pane: Pane): { trace: Trace; y: number }[] {
  const ends = pane.traces
    .flatMap((trace, k) => {
      if (!trace.label) return [];
      const values = u.data[k + 1] as (number | null)[];
      const [, to] = u.series[0]?.idxs ?? [0, values.length - 1];
      let i = Math.min(to, values.length - 1);
      while (i > 0 && values[i] === null) i -= 1;
      return [{ trace, y: u.valToPos(values[i] ?? 0, scaleOf(trace)) }];
    })
    .sort((a, b) => a.y - b.y);
  // Downwards apart from each other, then upwards again off the lower edge.
  let above = Number.NEGATIVE_INFINITY;
  for (const end of ends) above = end.y = Math.max(end.y, above + ROOM);
  let below = u.bbox.height / devicePixelRatio + ROOM;
  for (const end of [...ends].reverse()) below = end.y = Math.min(end.y, below - ROOM);
  return ends;
}

/** Where the notes in view stand [px from the plot's corner]; those far right turn to the left. */
export function notesOf(u: uPlot, pane: Pane) {
  const xs = u.data[0];
  return pane.traces.flatMap((trace, k) =>
    (trace.notes ?? []).flatMap(({ at, text }) => {
      const after = xs.findIndex((x) => x >= at * (1 - 1e-9));
      const value = (u.data[k + 1] as (number | null)[])[after];
      const x = u.valToPos(at, "x");
      const width = u.bbox.width / devicePixelRatio;
      if (value == null || x < 0 || x > width) return [];
      return [{ text, x, y: u.valToPos(value, scaleOf(trace)), flips: x > 0.7 * width }];
    }),
  );
}

/** A ring where a marker stands on measured dots. */
function ringed(u: uPlot, all: Dots[], marks: Marker[], hue: string): void {
  const { ctx, bbox } = u;
  const ratio = devicePixelRatio;
  ctx.save();
  ctx.strokeStyle = hue;
  ctx.lineWidth = 2 * ratio;
  for (const mark of marks)
    for (const dots of all) {
      if (dots.formula !== mark.curve || dots.member !== mark.member) continue;
      const y = dottedAt(u, dots, mark.at);
      if (y === null) continue;
      ctx.beginPath();
      ctx.arc(u.valToPos(mark.at, "x", true), bbox.top + y * ratio, 5 * ratio, 0, 2 * Math.PI);
      ctx.stroke();
    }
  ctx.restore();
}

/** Names at the curves' ends, the notes, and the markers. */
function drawn(
  u: uPlot,
  pane: Pane,
  marks: Marker[],
  hue: (trace: Trace) => string,
  ink: string,
  paper: string,
): void {
  const { ctx, bbox } = u;
  const ratio = devicePixelRatio;
  ctx.save();
  ctx.textBaseline = "middle";
  ctx.textAlign = "left";
  const ends = endsOf(u, pane);
  for (const { trace, y } of ends) {
    ctx.fillStyle = hue(trace);
    const x = bbox.left + bbox.width + (pane.side ? SIDE + 2 : 6) * ratio;
    paintName(ctx, trace.label, x, bbox.top + y * ratio, FAMILY, 12 * ratio);
  }
  ctx.font = `${12 * ratio}px ${FAMILY}`;
  for (const { text, x, y, flips } of notesOf(u, pane)) {
    ctx.fillStyle = ink;
    ctx.strokeStyle = paper;
    ctx.lineWidth = 4 * ratio;
    ctx.textAlign = flips ? "right" : "left";
    const [px, py] = [bbox.left + x * ratio, bbox.top + y * ratio];
    const at = px + (flips ? -7 : 7) * ratio;
    ctx.strokeText(text, at, py - 10 * ratio);
    ctx.fillText(text, at, py - 10 * ratio);
    ctx.beginPath();
    ctx.arc(px, py, 3 * ratio, 0, 2 * Math.PI);
    ctx.fill();
  }
  ctx.textAlign = "left";
  marks.forEach((mark, k) => {
    const x = u.valToPos(mark.at, "x", true);
    if (!(x >= bbox.left - 1 && x <= bbox.left + bbox.width + 1)) return;
    ctx.strokeStyle = ink;
    ctx.fillStyle = ink;
    ctx.lineWidth = ratio;
    ctx.beginPath();
    ctx.moveTo(x, bbox.top);
    ctx.lineTo(x, bbox.top + bbox.height);
    ctx.stroke();
    ctx.font = `${12 * ratio}px ${FAMILY}`;
    const { dx, leans } = besideLine(u, marks, k);
    ctx.textAlign = leans ? "right" : "left";
    ctx.fillText(LETTERS[k] as string, x + dx * ratio, bbox.top + 8 * ratio);
    pane.traces.forEach((trace, i) => {
      if (trace.formula !== mark.curve || trace.member !== mark.member) return;
      const y = inkedAt(u, pane, i, mark.at);
      if (y === null) return;
      ctx.fillStyle = hue(trace);
      ctx.beginPath();
      ctx.arc(x, bbox.top + y * ratio, 4 * ratio, 0, 2 * Math.PI);
      ctx.fill();
    });
  });
  ctx.restore();
}
