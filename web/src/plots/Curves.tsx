// The plots of a run, two markers across them, and the figures read off each curve.

import { memo, type RefObject, useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Analysis, BesideLook, Marker, Run, RunLook } from "../api/types";
import { useEditorStore } from "../schematic/editor/tools";
import { freshId } from "../schematic/model/wires";
import { Switched } from "../ui/Field";
import { Axes, canBeLog, type Limits, NONE } from "./Axes";
import { AxisHandles } from "./AxisHandles";
import { toOwnPlot, toPlotOf } from "./arranging";
import { CurveMenu, type CurveMenuAt } from "./CurveMenu";
import { changeRun } from "./changeRun";
import { SIDE } from "./drawing/axes";
import type { Dots } from "./drawing/benchDots";
import { dotsIn, gapPanes } from "./drawing/beside";
import type { Turn } from "./drawing/gestures";
import { HUES } from "./drawing/inks";
import { type Made, Plot } from "./drawing/Plot";
import { type Form, isBuild, type Looks, nameOf, PLAIN_LOOKS, panesOf } from "./drawing/panes";
import { enlarged, moved, type Stretch } from "./drawing/stretch";
import { MarkerTable } from "./MarkerTable";
import { MoreReadings } from "./MoreReadings";
import { OwnPlot } from "./OwnPlot";
import { Paths } from "./Plane";
import { PlotNotes } from "./PlotNotes";
import { Readings } from "./Readings";
import { RecordHandles } from "./RecordHandles";
import type { Takeable } from "./taking";
import { useCloser } from "./useCloser";
import type { Markers } from "./useMarkers";
import { useMarking } from "./useMarking";

const NO_DOTS: Dots[] = [];
const NO_MARKS: Marker[] = [];
const nothing = () => undefined;
const GAP_HEIGHT = 120; // px
const REST = 250; // ms after which a stretch is looked at for good
const [LEAST_MARGIN, MOST_MARGIN] = [64, 140]; // px
const HEIGHTS = [300, 190, 150, 130]; // px of each plot, by how many there are
const LOWER = 0.8; // of that, while markers are read below them

interface Props {
  run: Run;
  /** What more can be read off. */
  readings: Analysis["readings"];
  look: RunLook;
  ghost: RunLook | null;
  /** The plots that stand on the page, for pictures of them. */
  plots: RefObject<Map<string, Made>>;
  markers: Markers;
  beside: BesideLook | null;
  onTake(figure: Takeable): void;
}

export const Curves = memo(function Curves({
  run,
  readings,
  look: whole,
  ghost,
  plots,
  markers,
  beside,
  onTake,
}: Props) {
  const { look, zoom, turned } = useCloser(whole);
  const [limits, setLimits] = useState<Limits>({});
  const [looks, setLooks] = useState<Looks>(PLAIN_LOOKS);
  const [isLogX, setLogX] = useState<boolean | null>(null);
  const [isLogY, setLogY] = useState(false);
  const { form } = looks;
  const [menu, setMenu] = useState<CurveMenuAt | null>(null);
  const [hidden, setHidden] = useState<Set<string>>(new Set());
  const { marks, active } = markers;
  const { notes, plots: arranged, aside } = run;
  const panes = useMemo(
    () => panesOf(look, looks, hidden, notes, { plots: arranged, aside }),
    [look, looks, hidden, notes, arranged, aside],
  );
  const isLog = (isLogX ?? look.is_log) && (look.x[0] as number) > 0;
  // The same for all, so that their axes stand one above the other.
  const longest = Math.max(0, ...panes.flatMap((p) => p.traces.map((t) => t.label.length)));
  const margin = Math.min(Math.max(LEAST_MARGIN, 12 + 7 * longest), MOST_MARGIN);
  const dots = useMemo(() => dotsIn(panes, beside, look), [panes, beside, look]);
  const gaps = useMemo(() => gapPanes(beside, look), [beside, look]);
  const before = ghost ? panesOf(ghost, looks, hidden, [], run) : [];
  const isPhasors = look.curves.some((curve) => curve.phase);
  const room = HEIGHTS[Math.min(panes.length, HEIGHTS.length) - 1] ?? 300;
  const height = Math.round(room * (marks.length ? LOWER : 1));

  const hues = JSON.stringify(
    look.curves.flatMap((curve, k) =>
      hidden.has(nameOf(curve)) || isBuild(curve) ? [] : [[curve.text, (k % HUES) + 1]],
    ),
  );
  // The same hue on the drawing as on the plots, while they stand beside it.
  useEffect(() => {
    useEditorStore.getState().set({ hues: new Map<string, number>(JSON.parse(hues)) });
    return () => useEditorStore.getState().set({ hues: new Map() });
  }, [hues]);

  const onHide = (name: string) => {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    setHidden(next);
  };
  const { mark, onMark, onMove, onKeyDown } = useMarking({
    look,
    panes,
    isLog,
    markers,
    onEnlarge: (factor, about) => onTurn({ factor, about }),
  });
  const made = useCallback(
    (key: string, one: Made | null) => {
      if (one) plots.current.set(key, one);
      else plots.current.delete(key);
    },
    [plots],
  );
  /** All plots of the run look at the same stretch; its points are asked for when it comes to rest. */
  const resting = useRef(0);
  const onTurn = (turn: Turn) => {
    const ends: Stretch = [whole.x[0] as number, whole.x.at(-1) as number];
    const axis = { isLog, ends };
    const [first] = plots.current.values();
    const seen = first?.u.scales.x;
    const from: Stretch = [seen?.min ?? ends[0], seen?.max ?? ends[1]];
    const to =
      "along" in turn
        ? moved(from, turn.along, axis)
        : enlarged(from, turn.factor, turn.about, axis);
    for (const { u } of plots.current.values()) u.setScale("x", { min: to[0], max: to[1] });
    turned();
    clearTimeout(resting.current);
    resting.current = window.setTimeout(() => zoom(to), REST);
  };
  const together = {
    x: look.x,
    axis: look.axis,
    unit: look.axis_unit,
    isLog,
    margin,
    onZoom: zoom,
    onTurn,
    onMade: made,
  };
  return (
    <>
      {isPhasors && (
        <div className="-mt-2 mb-2 w-96">
          <Switched
            label="Show as"
            value={form}
            options={[
              { value: "decibels", text: "dB" },
              { value: "plain", text: "Linear" },
              { value: "parts", text: "Re and Im" },
              { value: "path", text: "Nyquist" },
            ]}
            onChange={(to) => setLooks({ ...looks, form: to as Form })}
          />
        </div>
      )}
      <div
        tabIndex={0}
        role="group"
        aria-label={`Plot of ${look.curves.map(nameOf).join(", ")}; arrow keys move a marker, or put it on another curve, Enter sets another`}
        onKeyDown={onKeyDown}
        className="rounded-md bg-raised py-1"
      >
        {isPhasors && form === "path" && (
          <Paths
            look={look}
            marks={marks}
            isLog={isLog}
            hidden={(curve) => hidden.has(nameOf(curve))}
          />
        )}
        {panes.map((pane, k) => (
          <Plot
            key={pane.key}
            {...together}
            pane={pane}
            ghost={ghost && { x: ghost.x, pane: before.find((other) => other.key === pane.key) }}
            isLogY={isLogY && canBeLog(pane)}
            height={height}
            marks={marks}
            isLast={k === panes.length - 1 && !gaps.length}
            dots={dots.get(pane.key) ?? NO_DOTS}
            band={null}
            limits={limits[pane.key] ?? NONE}
            onMark={onMark}
            onMove={onMove}
            onMenu={(at, trace, page) => setMenu({ at, trace, page })}
            onDropped={(formula) =>
              toPlotOf(run.id, formula, [...new Set(pane.traces.map((t) => t.formula))])
            }
          />
        ))}
        {gaps.map(({ pane, dots: less, band }, k) => (
          <Plot
            key={pane.key}
            {...together}
            pane={pane}
            ghost={null}
            isLogY={false}
            height={GAP_HEIGHT}
            marks={NO_MARKS}
            isLast={k === gaps.length - 1}
            dots={less}
            band={band}
            limits={NONE}
            onMark={nothing}
            onMove={nothing}
            onMenu={nothing}
            onDropped={nothing}
          />
        ))}
        <RecordHandles
          look={look}
          beside={beside}
          plots={plots}
          margin={margin + (panes.some((pane) => pane.side) ? SIDE : 0)}
        />
        <OwnPlot onDropped={(formula) => toOwnPlot(run.id, formula)} />
        <AxisHandles
          run={run}
          look={look}
          isLog={isLog}
          plots={plots}
          margin={margin + (panes.some((pane) => pane.side) ? SIDE : 0)}
        />
      </div>
      <MarkerTable
        look={look}
        panes={panes}
        dots={dots}
        isLog={isLog}
        markers={markers}
        onTake={onTake}
        onNote={(text) => {
          const at = marks[active];
          if (!at) return;
          changeRun(run.id, (own) => {
            own.notes.push({ id: freshId("n", own.notes), ...at, text });
          });
        }}
      />
      <Axes
        panes={panes}
        looks={looks}
        isPhasors={isPhasors}
        log={[isLog, isLogY]}
        canLog={[(look.x[0] as number) > 0, panes.some(canBeLog)]}
        limits={limits}
        onLooks={setLooks}
        onLog={(x, y) => {
          setLogX(x);
          setLogY(y);
        }}
        onLimits={(key, to) => setLimits({ ...limits, [key]: to })}
      />
      <PlotNotes run={run} unit={look.axis_unit} />
      {readings.length > 0 && <MoreReadings run={run} readings={readings} />}
      {menu && (
        <CurveMenu
          run={run}
          at={menu}
          panes={panes}
          markers={markers}
          onHide={onHide}
          onWhole={() => void zoom(null)}
          onClose={() => setMenu(null)}
        />
      )}
      <Readings
        run={run}
        look={look}
        panes={panes}
        hidden={hidden}
        onHide={onHide}
        onMark={mark}
        onTake={onTake}
      />
    </>
  );
});
