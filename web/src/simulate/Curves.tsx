// The plots of a run, two markers across them, and the figures read off each curve.

import { X } from "lucide-react";
import {
  type KeyboardEvent,
  memo,
  type RefObject,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { isForgotten } from "../api/client";
import { askOnLine } from "../api/line";
import type { Analysis, BesideLook, Marker, Run, RunLook } from "../api/types";
import { LETTERS } from "../document/runs";
import { useEditorStore } from "../schematic/editor/tools";
import { freshId } from "../schematic/model/wires";
import { engineering } from "../ui/engineering";
import { Switched } from "../ui/Field";
import { MenuAt, MenuItem, MenuLine } from "../ui/Menu";
import { Named } from "../ui/Named";
import { say } from "../ui/Toasts";
import { Axes, canBeLog, type Limits, NONE } from "./Axes";
import { AxisHandles } from "./AxisHandles";
import { toOwnPlot, toPlotOf } from "./arranging";
import { changeRun } from "./changeRun";
import { dropTarget, useDragged } from "./dragged";
import { MarkerTable, tracesOf } from "./MarkerTable";
import { MoreReadings } from "./MoreReadings";
import { Paths } from "./Plane";
import { SIDE } from "./plot/axes";
import type { Dots } from "./plot/benchDots";
import { dotsIn, gapPanes } from "./plot/beside";
import type { Turn } from "./plot/gestures";
import { HUES } from "./plot/inks";
import { type Made, Plot } from "./plot/Plot";
import {
  type Form,
  isBuild,
  type Looks,
  nameOf,
  PLAIN_LOOKS,
  panesOf,
  type Trace,
} from "./plot/panes";
import { enlarged, moved, type Stretch } from "./plot/stretch";
import { PlaceItems, Readings } from "./Readings";
import { RecordHandles } from "./RecordHandles";
import type { Takeable } from "./taking";
import type { Markers } from "./useMarkers";

const NO_DOTS: Dots[] = [];
const NO_MARKS: Marker[] = [];
const GAP_HEIGHT = 120; // px
const [LEAST_MARGIN, MOST_MARGIN] = [64, 140]; // px
const STEPS = 400; // arrow keys from one end of the axis to the other
const HEIGHTS = [300, 190, 150, 130]; // px of each plot, by how many there are
const APART = 0.1; // of the axis: where a second marker begins beside the first
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
  /** The first press sets A, the second B; after that the nearer one comes along. */
  const mark = (to: Marker) => {
    const [a, b] = marks;
    if (!a || !b) {
      markers.set([...marks, to]);
      markers.activate(marks.length);
      return;
    }
    const nearer = Math.abs(a.at - to.at) <= Math.abs(b.at - to.at) ? 0 : 1;
    markers.activate(nearer);
    put(nearer, to);
  };
  const put = (k: number, to: Partial<Marker>, group?: string) =>
    markers.set(
      marks.map((old, n) => (n === k ? { ...old, ...to } : old)),
      group,
    );
  const onMark = (at: number, { formula, member }: Trace) => mark({ curve: formula, member, at });
  const onMove = (k: number, at: number) => {
    markers.activate(k);
    put(k, { at }, "marker");
  };
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
  const onKeyDown = (event: KeyboardEvent) => {
    const [low, high] = [look.x[0] as number, look.x.at(-1) as number];
    const middle = isLog ? Math.sqrt(low * high) : (low + high) / 2;
    const traces = tracesOf(panes);
    const own = marks[active];
    const about = own?.at ?? middle;
    const along = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    const across = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (event.key === "Escape") markers.set([]);
    else if (event.key === "+") onTurn({ factor: 0.5, about });
    else if (event.key === "-") onTurn({ factor: 2, about });
    else if (event.key === "Enter") {
      // B begins on another curve where there is one.
      const next = traces[Math.min(marks.length, traces.length - 1)];
      const beside = isLog ? about * (high / low) ** APART : about + APART * (high - low);
      if (next && marks.length < 2) onMark(own ? Math.min(beside, high) : middle, next);
    } else if (along && own) {
      const share = (along * (event.shiftKey ? 20 : 1)) / STEPS;
      const to = isLog ? about * (high / low) ** share : about + share * (high - low);
      put(active, { at: Math.min(Math.max(to, low), high) }, "marker");
    } else if (along && traces[0]) onMark(middle, traces[0]);
    else if (across && own) {
      const at = traces.findIndex((t) => t.formula === own.curve && t.member === own.member);
      const to = traces[(at + across + traces.length) % traces.length];
      if (to) put(active, { curve: to.formula, member: to.member });
    } else return;
    event.preventDefault();
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
            pane={pane}
            x={look.x}
            ghost={ghost && { x: ghost.x, pane: before.find((other) => other.key === pane.key) }}
            axis={look.axis}
            unit={look.axis_unit}
            isLog={isLog}
            isLogY={isLogY && canBeLog(pane)}
            height={height}
            margin={margin}
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
            onZoom={zoom}
            onTurn={onTurn}
            onMade={made}
          />
        ))}
        {gaps.map(({ pane, dots: less, band }, k) => (
          <Plot
            key={pane.key}
            pane={pane}
            x={look.x}
            ghost={null}
            axis={look.axis}
            unit={look.axis_unit}
            isLog={isLog}
            isLogY={false}
            height={GAP_HEIGHT}
            margin={margin}
            marks={NO_MARKS}
            isLast={k === gaps.length - 1}
            dots={less}
            band={band}
            limits={NONE}
            onMark={() => undefined}
            onMove={() => undefined}
            onMenu={() => undefined}
            onDropped={() => undefined}
            onZoom={zoom}
            onTurn={onTurn}
            onMade={made}
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
      {run.notes.length > 0 && (
        <ul aria-label="Notes on the plots" className="mt-2 space-y-0.5 text-sm">
          {run.notes.map((note) => (
            <li key={note.id} className="flex items-baseline gap-2">
              <span className="text-soft">
                <Named text={note.member ? `${note.curve}, ${note.member}` : note.curve} /> at{" "}
                {engineering(note.at, look.axis_unit)}
              </span>
              <span className="grow">{note.text}</span>
              <button
                type="button"
                aria-label={`Remove the note ${note.text}`}
                onClick={() =>
                  changeRun(run.id, (own) => {
                    own.notes = own.notes.filter((other) => other.id !== note.id);
                  })
                }
                className="rounded-full p-0.5 text-soft hover:bg-ruling print:hidden"
              >
                <X size={13} />
              </button>
            </li>
          ))}
        </ul>
      )}
      {readings.length > 0 && <MoreReadings run={run} readings={readings} />}
      {menu && (
        <MenuAt
          label={`What can be done with ${menu.trace.name}`}
          at={menu.page}
          onClose={() => setMenu(null)}
        >
          {[...LETTERS].slice(0, marks.length + 1).map((letter, k) => (
            <MenuItem
              key={letter}
              onSelect={() => {
                const to = { curve: menu.trace.formula, member: menu.trace.member, at: menu.at };
                markers.set(
                  marks.length > k ? marks.map((m, n) => (n === k ? to : m)) : [...marks, to],
                );
                markers.activate(k);
              }}
            >
              Marker {letter} here, on {menu.trace.name}
            </MenuItem>
          ))}
          <MenuItem onSelect={() => onHide(menu.trace.name)}>Hide {menu.trace.name}</MenuItem>
          <MenuLine />
          <PlaceItems run={run} formula={menu.trace.formula} panes={panes} />
          <MenuLine />
          <MenuItem onSelect={() => void zoom(null)}>Reset zoom</MenuItem>
        </MenuAt>
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

interface CurveMenuAt {
  at: number;
  trace: Trace;
  page: [number, number];
}

/** Where a dragged curve gets a plot of its own; there while one is dragged. */
function OwnPlot({ onDropped }: { onDropped(formula: string): void }) {
  const formula = useDragged((state) => state.formula);
  if (!formula) return null;
  return (
    <p
      {...dropTarget(onDropped)}
      className="m-2 rounded-md border border-accent border-dashed p-3 text-center text-sm text-soft"
    >
      Drop it here for a plot of its own
    </p>
  );
}

const REST = 250; // ms after which a stretch is looked at for good

/** A stretch of the axis with all its points, where the curves are thinned to what a screen shows. It is
 * of the very result that is drawn, whatever the circuit is by now. */
function useCloser(whole: RunLook) {
  const [closer, setCloser] = useState<{ of: RunLook; look: RunLook } | null>(null);
  // An answer that comes after the eye has moved on must not call it back.
  const turns = useRef(0);
  const turned = () => {
    turns.current += 1;
  };
  const zoom = async (window: [number, number] | null) => {
    turned();
    const asked = turns.current;
    if (!window || !(whole.is_thinned || closer)) {
      setCloser(null);
      return;
    }
    try {
      const look = await askOnLine("closer", { result: whole.result, window });
      if (look.curves.length && asked === turns.current) setCloser({ of: whole, look });
    } catch (error) {
      const forgotten = "To see more points here, run it again.";
      say(isForgotten(error) ? forgotten : (error as Error).message);
    }
  };
  return { look: closer?.of === whole ? closer.look : whole, zoom, turned };
}
