// A curve that swings several times within a few pixels is drawn column by column: to stroke it as a line
// would take the browser many times longer, and looks the same.
import uPlot from "uplot";
import { type Inks, widthOf } from "./inks";
import type { Trace } from "./panes";

const DENSE = 1.5; // points for each column of pixels, at least
const STEEP = 24; // px that it goes up or down within a column, on the whole

interface Column {
  /** Of the canvas, in its pixels. */
  at: number;
  least: number;
  most: number;
}

const line = uPlot.paths.linear?.() as uPlot.Series.PathBuilder;
const dense = new WeakMap<uPlot, Map<number, Column[]>>();

/** A curve as a line, where it is not dense; else `drawDense` draws it. */
export const lineIfPlain: uPlot.Series.PathBuilder = (u, k, from, to) => {
  const kept = dense.get(u) ?? new Map<number, Column[]>();
  dense.set(u, kept);
  kept.delete(k);
  if (to - from < DENSE * u.bbox.width) return line(u, k, from, to);
  const scale = u.series[k]?.scale as string;
  const reached = columnsOf(u.data[0], u.data[k] ?? [], from, to, columnOn(u));
  const columns = reached.map(({ at, least, most }) => {
    const [a, b] = [u.valToPos(least, scale, true), u.valToPos(most, scale, true)];
    return { at, least: Math.min(a, b), most: Math.max(a, b) };
  });
  const travel = columns.reduce((sum, { least, most }) => sum + most - least, 0);
  if (travel < STEEP * devicePixelRatio * columns.length) return line(u, k, from, to);
  kept.set(k, columns);
  return { stroke: null, fill: null, clip: null, flags: 0 };
};

export const denseLayer = (traces: () => Trace[], { of }: Inks): uPlot.Plugin => ({
  hooks: {
    drawSeries: (u, k) => {
      const trace = traces()[k - 1];
      if (trace) drawDense(u, k, of(trace), widthOf(trace));
    },
  },
});

/** What `lineIfPlain` left out of the k-th curve, in `ink` and `width` px wide. */
function drawDense(u: uPlot, k: number, ink: string, width: number): void {
  const { ctx, bbox } = u;
  const half = (width * devicePixelRatio) / 2;
  const wide = Math.max(1, Math.round(2 * half));
  const [top, bottom] = [bbox.top, bbox.top + bbox.height];
  ctx.save();
  ctx.fillStyle = ink;
  for (const { at, least, most } of dense.get(u)?.get(k) ?? []) {
    const [from, to] = [Math.max(least - half, top), Math.min(most + half, bottom)];
    if (from < to && at > bbox.left && at < bbox.left + bbox.width)
      ctx.fillRect(at - (wide >> 1), Math.round(from), wide, Math.round(to - from));
  }
  ctx.restore();
}

/** The column of pixels an abscissa falls into; the plot's own way is too slow for all of them. */
function columnOn({ scales, bbox: { left, width } }: uPlot): (x: number) => number {
  const { min = 0, max = 1, distr } = scales.x as uPlot.Scale;
  const along = distr === 3 ? Math.log10 : (x: number) => x;
  const [first, last] = [along(min as number), along(max as number)];
  const factor = width / (last - first);
  return (x) => Math.round(left + (along(x) - first) * factor);
}

/** What a curve reaches from within each column; each begins where the one before ended, and those that it
 * passes without a point have their piece of the straight line, so that nothing is open but a gap. */
export function columnsOf(
  x: ArrayLike<number>,
  y: ArrayLike<number | null | undefined>,
  from: number,
  to: number,
  columnOf: (x: number) => number,
): Column[] {
  const columns: Column[] = [];
  let column: Column | undefined;
  let last: number | null = null;
  const begin = (at: number, value: number) => {
    column = { at, least: value, most: value };
    columns.push(column);
    return column;
  };
  const reach = (into: Column, value: number) => {
    into.least = Math.min(into.least, value);
    into.most = Math.max(into.most, value);
  };
  for (let i = from; i <= to; i++) {
    const value = y[i] ?? null;
    if (value !== null) {
      const at = columnOf(x[i] as number);
      if (column && last !== null) {
        const [start, first] = [last, column.at];
        for (let between = first + 1; between < at; between++) {
          const passed: number = start + ((value - start) * (between - first)) / (at - first);
          reach(begin(between, last), passed);
          last = passed;
        }
      }
      reach(column?.at === at ? column : begin(at, last ?? value), value);
    }
    last = value;
  }
  return columns;
}
