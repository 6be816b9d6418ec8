// One plot: curves over an axis, named at their ends, with markers that stay on them.
import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { engineering, scaleFor } from "../ui/engineering";
import { Named, paintName } from "../ui/Named";
import { usePreferences } from "../ui/theme";
import { banded } from "./bands";
import { drawDense, lineIfPlain } from "./dense";
import type { Pane, Trace } from "./panes";
import { logTicks } from "./ticks";

export const HUES = 6;
const LINE = 1.8; // px
const FAINT = 0.6; // px, of the many builds of a tolerance study
const LABEL = 50; // px along the axis for each label, on average
const ROOM = 12; // px between names of curves
export const SIDE = 54; // px of the axis at the right
const FAMILY = '"Commissioner Variable", system-ui, sans-serif';
const FONT = `12px ${FAMILY}`;

interface Props {
  pane: Pane;
  x: number[];
  /** The same before the circuit was changed. */
  ghost: { x: number[]; pane: Pane | undefined } | null;
  axis: string;
  unit: string;
  isLog: boolean;
  height: number;
  /** Room for the names at the curves' ends [px]. */
  margin: number;
  /** Places in `x` of the markers. */
  marks: number[];
  isLast: boolean;
  /** Whether sizes are drawn by their logarithm too. */
  isLogY: boolean;
  /** What was typed as its limits; null where it fits the curves. */
  limits: [number | null, number | null];
  onMark(place: number): void;
  /** A stretch of the axis was swept to be looked at closer; null: all of it again. */
  onZoom(stretch: [number, number] | null): void;
  /** The wheel was turned to look closer, or along the axis by a share of the width. */
  onTurn(turn: Turn): void;
  /** The plot that was made, for pictures of it; null when it is gone. */
  onMade(key: string, made: Made | null): void;
}

export type Turn = { factor: number; about: number } | { along: number };

export interface Made {
  u: uPlot;
  pane: Pane;
}

export function Plot({
  pane,
  x,
  ghost,
  axis,
  unit,
  isLog,
  height,
  margin,
  marks,
  isLast,
  isLogY,
  limits,
  onMark,
  onZoom,
  onTurn,
  onMade,
}: Props) {
  const host = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const marked = useRef(marks);
  const mark = useRef(onMark);
  const before = useRef(ghost);
  const shown = useRef(pane);
  const zoom = useRef(onZoom);
  zoom.current = onZoom;
  const turn = useRef(onTurn);
  turn.current = onTurn;
  const theme = usePreferences((preferences) => preferences.theme);
  marked.current = marks;
  mark.current = onMark;
  before.current = ghost;
  shown.current = pane;

  // Made anew where its frame differs; new numbers alone are poured into the one there is.
  const frame = `${pane.key} ${axis} ${unit} ${isLog} ${height} ${margin} ${theme} ${isLast} ${isLogY} ${limits} ${pane.traces.map((t) => `${t.name}/${t.hue}/${t.aside}`)}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the frame names all it is made of
  useEffect(() => {
    const element = host.current;
    if (!element) return;
    const style = getComputedStyle(document.documentElement);
    const colour = (name: string) => style.getPropertyValue(name).trim();
    const hue = (trace: Trace) => colour(inkOf(trace));
    const line = (of: string, show: boolean, on: string): uPlot.Axis => ({
      scale: on,
      side: { x: 2, y: 3, side: 1 }[on],
      stroke: colour("--ink-soft"),
      font: FONT,
      grid: { stroke: `${colour("--hairline")}70`, width: 1, show: on !== "side" },
      ticks: { stroke: colour("--hairline"), width: 1, size: 4 },
      size: on === "y" ? 62 : on === "side" ? SIDE : show ? 32 : 12,
      ...((on === "x" && isLog) || (on === "y" && isLogY)
        ? { splits: (_: uPlot, __: number, low: number, high: number) => logTicks(low, high) }
        : {}),
      // All that are drawn: which of them are labelled is decided there.
      filter: (_, ticks) => ticks,
      values: (u, ticks) => {
        if (!show) return ticks.map(() => "");
        const texts = labels(ticks, of, (on === "x" && isLog) || (on === "y" && isLogY));
        return on === "x" ? apart(texts, u.bbox.width / devicePixelRatio) : texts;
      },
    });
    const passed = (u: uPlot, part: "lines" | "words") => {
      const inks = { accent: colour("--accent"), paper: colour("--raised"), family: FAMILY };
      const { bands } = shown.current;
      if (bands) banded(u, bands, { inDecibels: pane.unit === "dB", part }, inks);
    };
    const made = new uPlot(
      {
        width: element.clientWidth,
        height,
        padding: [10, margin, 0, 4],
        scales: {
          x: { time: false, distr: isLog ? 3 : 1, range: (_, a, b) => [a, b] },
          y: isLogY ? { distr: 3, range: decadesRoomy } : { range: within(limits) },
          ...(pane.side ? { side: { range: roomy } } : {}),
        },
        legend: { show: false },
        cursor: {
          drag: { x: true, y: false, dist: 6 },
          points: { size: 7 },
          sync: { key: "run" },
        },
        axes: [
          line(unit, isLast, "x"),
          line(pane.unit, true, "y"),
          ...(pane.side ? [line(pane.side, true, "side")] : []),
        ],
        series: [
          {},
          ...pane.traces.map((trace) => ({
            label: trace.name,
            scale: scaleOf(trace),
            stroke: hue(trace),
            width: widthOf(trace),
            ...(isDashed(trace) ? { dash: [6, 4] } : { paths: lineIfPlain }),
            points: { show: false },
            pxAlign: 0,
          })),
        ],
        hooks: {
          drawAxes: [
            (u) => {
              haunted(u, before.current, hue);
              passed(u, "lines");
            },
          ],
          drawSeries: [
            (u, k) => {
              const trace = pane.traces[k - 1];
              if (trace) drawDense(u, k, hue(trace), widthOf(trace));
            },
          ],
          draw: [
            (u) => {
              passed(u, "words");
              drawn(u, shown.current, marked.current, hue, colour("--ink"), colour("--raised"));
            },
          ],
          setSelect: [
            ({ select, posToVal }) => {
              if (select.width < 6) return;
              zoom.current([posToVal(select.left, "x"), posToVal(select.left + select.width, "x")]);
            },
          ],
          ready: [
            (u) => {
              // A plain wheel scrolls the page; with Control it looks closer, with Shift or sideways along.
              const wheel = (event: WheelEvent) => {
                const isSideways =
                  event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
                if (!event.ctrlKey && !isSideways) return;
                event.preventDefault();
                const by = isSideways ? event.deltaX || event.deltaY : event.deltaY;
                const about = u.posToVal(u.cursor.left ?? 0, "x");
                turn.current(
                  isSideways
                    ? { along: by / u.over.clientWidth }
                    : { factor: Math.exp(by / 400), about },
                );
              };
              u.over.addEventListener("wheel", wheel, { passive: false });
              let from = 0;
              u.over.addEventListener("pointerdown", (event) => {
                from = event.clientX;
              });
              u.over.addEventListener("dblclick", () => zoom.current(null));
              u.over.addEventListener("click", (event) => {
                if (Math.abs(event.clientX - from) < 4 && u.cursor.idx != null)
                  mark.current(u.cursor.idx);
              });
            },
          ],
        },
      },
      poured(x, pane, isLogY),
      element,
    );
    plot.current = made;
    onMade(pane.key, {
      u: made,
      get pane() {
        return shown.current; // as it is when the picture is made
      },
    });
    const watch = new ResizeObserver(() => made.setSize({ width: element.clientWidth, height }));
    watch.observe(element);
    return () => {
      watch.disconnect();
      made.destroy();
      plot.current = null;
      onMade(pane.key, null);
    };
  }, [frame]);
  useEffect(() => {
    plot.current?.setData(poured(x, pane, isLogY));
  }, [x, pane, isLogY]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn anew when the markers move
  useEffect(() => {
    plot.current?.redraw(false);
  }, [marks, ghost]);
  return (
    <figure className="relative m-0">
      <figcaption className="absolute top-0 left-16 z-1 text-xs text-soft">
        <Named
          text={
            pane.title ||
            [...new Set(pane.traces.map((trace) => trace.name.split(", ")[0]))].join(", ")
          }
        />
      </figcaption>
      <div ref={host} className="pt-3" />
    </figure>
  );
}

/** The name of a curve's colour: its own hue, or a pencil's where it was worked out by hand. */
export const inkOf = (trace: Trace) =>
  trace.byHand ? "--hand" : `--curve-${(trace.hue % HUES) + 1}`;

export const isDashed = (trace: Trace) => trace.byHand || (trace.aside && !trace.label);

const widthOf = (trace: Trace) => (trace.label || trace.aside ? LINE : FAINT);

export const scaleOf = (trace: Trace) => (trace.aside ? "side" : "y");

/** The numbers as the plot takes them; by logarithm what is not above zero is a gap. */
const poured = (x: number[], pane: Pane, isLogY: boolean): uPlot.AlignedData => [
  x,
  ...pane.traces.map((trace) =>
    isLogY && !trace.aside ? trace.y.map((v) => (v !== null && v > 0 ? v : null)) : trace.y,
  ),
];

function decadesRoomy(_: uPlot, low: number | null, high: number | null): [number, number] {
  if (low === null || high === null || !(low > 0)) return [0.1, 1];
  return low < high ? [low / 1.15, high * 1.15] : [low / 2, high * 2];
}

/** Limits as typed, else those of the data. */
const within =
  ([low, high]: [number | null, number | null]) =>
  (u: uPlot, least: number | null, most: number | null): [number, number] => {
    const [a, b] = roomy(u, least, most);
    const [from, to] = [low ?? a, high ?? b];
    return from < to ? [from, to] : [a, b];
  };

/** The range of the data with a little air, and never of no height. */
function roomy(_: uPlot, low: number | null, high: number | null): [number, number] {
  if (low === null || high === null) return [0, 1];
  const air = (high - low) * 0.06 || Math.abs(high) * 0.1 || 1;
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

/** The curves as they were, faint, behind those that are. */
function haunted(u: uPlot, ghost: Props["ghost"], hue: (trace: Trace) => string): void {
  if (!ghost?.pane) return;
  const { ctx, bbox } = u;
  ctx.save();
  ctx.beginPath();
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height);
  ctx.clip();
  ctx.globalAlpha = 0.4;
  ctx.lineWidth = devicePixelRatio;
  for (const trace of ghost.pane.traces) {
    ctx.strokeStyle = hue(trace);
    ctx.beginPath();
    ghost.x.forEach((at, i) => {
      const value = trace.y[i];
      if (value != null)
        ctx.lineTo(u.valToPos(at, "x", true), u.valToPos(value, scaleOf(trace), true));
    });
    ctx.stroke();
  }
  ctx.restore();
}

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

/** Names at the curves' ends, the notes, and the markers. */
function drawn(
  u: uPlot,
  pane: Pane,
  marks: number[],
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
  marks.forEach((place, k) => {
    const x = u.valToPos(u.data[0][place] as number, "x", true);
    if (!(x >= bbox.left - 1 && x <= bbox.left + bbox.width + 1)) return;
    ctx.strokeStyle = ink;
    ctx.fillStyle = ink;
    ctx.lineWidth = ratio;
    ctx.beginPath();
    ctx.moveTo(x, bbox.top);
    ctx.lineTo(x, bbox.top + bbox.height);
    ctx.stroke();
    ctx.fillText("AB"[k] as string, x + 4 * ratio, bbox.top + 8 * ratio);
    pane.traces.forEach((trace, i) => {
      const value = (u.data[i + 1] as (number | null)[])[place];
      if (value == null) return;
      ctx.fillStyle = hue(trace);
      ctx.beginPath();
      ctx.arc(x, u.valToPos(value, scaleOf(trace), true), 3.5 * ratio, 0, 2 * Math.PI);
      ctx.fill();
    });
  });
  ctx.restore();
}
