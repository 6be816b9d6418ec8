// One plot: curves over an axis, named at their ends, with markers that stay on them.
import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { Named } from "../../ui/Named";
import { usePreferences } from "../../ui/theme";
import { DraggedName, dropTarget } from "../dragged";
import { axisOf, decadesRoomy, poured, reaching, roomy, within } from "./axes";
import { bandLayer } from "./bands";
import { type Band, benchLayer, type Dots, reachOf } from "./benchDots";
import { denseLayer, lineIfPlain } from "./dense";
import { type Gestures, gestures } from "./gestures";
import { type Ghost, ghostLayer } from "./ghost";
import { inks, isDashed, scaleOf, widthOf } from "./inks";
import { marksLayer } from "./marks";
import type { Pane } from "./panes";

interface Props extends Gestures {
  x: number[];
  /** The same before the circuit was changed. */
  ghost: Ghost | null;
  axis: string;
  unit: string;
  isLog: boolean;
  height: number;
  /** Room for the names at the curves' ends [px]. */
  margin: number;
  isLast: boolean;
  /** Whether sizes are drawn by their logarithm too. */
  isLogY: boolean;
  /** What the bench says, and the band it may lie in. */
  dots: Dots[];
  band: Band | null;
  /** What was typed as its limits; null where it fits the curves. */
  limits: [number | null, number | null];
  /** A curve's name was dropped on it. */
  onDropped(formula: string): void;
  /** The plot that was made, for pictures of it; null when it is gone. */
  onMade(key: string, made: Made | null): void;
}

export interface Made {
  u: uPlot;
  pane: Pane;
}

export function Plot(props: Props) {
  const { pane, x, ghost, axis, unit, isLog, height, margin, marks, isLast, isLogY, limits } =
    props;
  const host = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const now = useRef(props);
  now.current = props;
  const theme = usePreferences((preferences) => preferences.theme);

  // Made anew where its frame differs; new numbers alone are poured into the one there is.
  const frame = `${pane.key} ${axis} ${unit} ${isLog} ${height} ${margin} ${theme} ${isLast} ${isLogY} ${limits} ${pane.side} ${pane.traces.map((t) => `${t.name}/${t.hue}/${t.aside}`)}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the frame names all it is made of
  useEffect(() => {
    const element = host.current;
    if (!element) return;
    const ink = inks();
    const { onMade } = now.current;
    const shown = () => now.current.pane;
    const reach = (scale: "y" | "side") => () => reachOf(now.current.dots, scale);
    const made = new uPlot(
      {
        width: element.clientWidth,
        height,
        padding: [10, margin, 0, 4],
        scales: {
          x: { time: false, distr: isLog ? 3 : 1, range: (_, a, b) => [a, b] },
          y: isLogY
            ? { distr: 3, range: decadesRoomy }
            : { range: reaching(within(limits), reach("y")) },
          ...(pane.side ? { side: { range: reaching(roomy, reach("side")) } } : {}),
        },
        legend: { show: false },
        cursor: {
          drag: { x: true, y: false, dist: 6 },
          points: { size: 7 },
          sync: { key: "run" },
        },
        axes: [
          axisOf("x", unit, { isLog, isShown: isLast }, ink),
          axisOf("y", pane.unit, { isLog: isLogY, isShown: true }, ink),
          ...(pane.side ? [axisOf("side", pane.side, { isLog: false, isShown: true }, ink)] : []),
        ],
        series: [
          {},
          ...pane.traces.map((trace) => ({
            label: trace.name,
            scale: scaleOf(trace),
            stroke: ink.of(trace),
            width: widthOf(trace),
            ...(isDashed(trace) ? { dash: [6, 4] } : { paths: lineIfPlain }),
            points: { show: false },
            pxAlign: 0,
          })),
        ],
        plugins: [
          ghostLayer(() => now.current.ghost, ink),
          bandLayer(shown, ink),
          denseLayer(() => pane.traces, ink),
          benchLayer(
            () => now.current.dots,
            () => now.current.band,
            ink,
          ),
          marksLayer(
            shown,
            () => now.current.dots,
            () => now.current.marks,
            ink,
          ),
          gestures(() => now.current),
        ],
      },
      poured(x, pane, isLogY),
      element,
    );
    plot.current = made;
    onMade(pane.key, {
      u: made,
      get pane() {
        return shown(); // as it is when the picture is made
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
  const { dots } = props;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the range reaches over the dots
  useEffect(() => {
    plot.current?.setData(poured(x, pane, isLogY));
  }, [x, pane, isLogY, dots]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn anew when the markers move
  useEffect(() => {
    plot.current?.redraw(false);
  }, [marks, ghost]);
  const isSide = (formula: string) =>
    pane.traces.some((trace) => trace.formula === formula && trace.aside);
  const formulas = [...new Set(pane.traces.map((trace) => trace.formula))];
  return (
    <figure className="relative m-0" {...dropTarget(props.onDropped)}>
      <figcaption className="absolute top-0 left-16 z-1 flex gap-1 text-xs text-soft">
        {pane.title && (
          <span>
            {pane.title}
            {formulas.length > 0 && " of"}
          </span>
        )}
        {formulas.map((formula, k) => (
          <DraggedName key={formula} formula={formula}>
            <Named text={formula} />
            {isSide(formula) && " (right)"}
            {k < formulas.length - 1 && ","}
          </DraggedName>
        ))}
      </figcaption>
      <div ref={host} className="pt-3" />
    </figure>
  );
}
