// The plots of a run, two markers across them, and the figures read off each curve.

import { X } from "lucide-react";
import {
  type KeyboardEvent,
  memo,
  type RefObject,
  useCallback,
  useEffect,
  useRef,
  useState,
} from "react";
import { isForgotten } from "../api/client";
import { askOnLine } from "../api/line";
import type { Analysis, Run, RunLook } from "../api/types";
import { useHand } from "../schematic/hand/tools";
import { freshId } from "../schematic/model/wires";
import { engineering } from "../ui/engineering";
import { Switched } from "../ui/Field";
import { Named } from "../ui/Named";
import { say } from "../ui/Toasts";
import { Axes, canBeLog, type Limits, NONE } from "./Axes";
import { Ends } from "./Ends";
import { Marked, TakeButton } from "./Marked";
import { MoreReadings } from "./MoreReadings";
import { Paths } from "./Plane";
import { SIDE } from "./plot/axes";
import type { Turn } from "./plot/gestures";
import { HUES } from "./plot/inks";
import { type Jump, nextPlace } from "./plot/jumps";
import { type Made, Plot } from "./plot/Plot";
import { type Form, isBuild, type Looks, nameOf, PLAIN_LOOKS, panesOf } from "./plot/panes";
import { enlarged, moved, type Stretch } from "./plot/stretch";
import { changeRun } from "./Recipe";
import type { Takeable } from "./taking";

const [LEAST_MARGIN, MOST_MARGIN] = [64, 140]; // px
const HEIGHTS = [300, 190, 150, 130]; // px of each plot, by how many there are

interface Props {
  run: Run;
  /** What more can be read off. */
  readings: Analysis["readings"];
  look: RunLook;
  ghost: RunLook | null;
  /** The plots that stand on the page, for pictures of them. */
  plots: RefObject<Map<string, Made>>;
  onTake(figure: Takeable): void;
}

export const Curves = memo(function Curves({
  run,
  readings,
  look: whole,
  ghost,
  plots,
  onTake,
}: Props) {
  const { look, zoom, turned } = useCloser(whole);
  const [limits, setLimits] = useState<Limits>({});
  const [looks, setLooks] = useState<Looks>(PLAIN_LOOKS);
  const [isLogX, setLogX] = useState<boolean | null>(null);
  const [isLogY, setLogY] = useState(false);
  const { form } = looks;
  const [hidden, setHidden] = useState<Set<string>>(new Set());
  // Where on the axis the markers stand; they stay there when the curves change.
  const [marks, setMarks] = useState<number[]>([]);
  const panes = panesOf(look, looks, hidden, run.notes);
  const isLog = (isLogX ?? look.is_log) && (look.x[0] as number) > 0;
  // The same for all, so that their axes stand one above the other.
  const longest = Math.max(0, ...panes.flatMap((p) => p.traces.map((t) => t.label.length)));
  const margin = Math.min(Math.max(LEAST_MARGIN, 12 + 7 * longest), MOST_MARGIN);
  const before = ghost ? panesOf(ghost, looks, hidden) : [];
  const isPhasors = look.curves.some((curve) => curve.phase);
  const last = look.x.length - 1;
  const kept = marks.map((at) => nearest(look.x, at));
  const setPlaces = (places: number[]) => setMarks(places.map((place) => look.x[place] as number));
  const height = HEIGHTS[Math.min(panes.length, HEIGHTS.length) - 1] ?? 300;

  const hues = JSON.stringify(
    look.curves.flatMap((curve, k) =>
      hidden.has(nameOf(curve)) || isBuild(curve) ? [] : [[curve.text, (k % HUES) + 1]],
    ),
  );
  // The same hue on the drawing as on the plots, while they stand beside it.
  useEffect(() => {
    useHand.getState().set({ hues: new Map<string, number>(JSON.parse(hues)) });
    return () => useHand.getState().set({ hues: new Map() });
  }, [hues]);

  /** The first press sets A, the second B; after that the nearer one comes along. */
  const mark = (place: number) => {
    if (kept.length < 2) setPlaces([...kept, place]);
    else {
      const nearer = Math.abs((kept[0] ?? 0) - place) <= Math.abs((kept[1] ?? 0) - place) ? 0 : 1;
      setPlaces(kept.map((old, k) => (k === nearer ? place : old)));
    }
  };
  /** The marker set last goes to the next such place on the first curve that has one. */
  const jump = (kind: Jump) => {
    const of =
      kind === "unity" || kind === "halfPower" || form === "path"
        ? look.curves.filter((curve) => !hidden.has(nameOf(curve))).map((curve) => curve.y)
        : panes.flatMap((pane) => pane.traces.map((trace) => trace.y));
    const from = kept.at(-1) as number;
    for (const y of of) {
      const place = nextPlace(kind, y, from);
      if (place !== null) {
        setPlaces([...kept.slice(0, -1), place]);
        return;
      }
    }
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
    const way = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    const about = marks.at(-1) ?? (look.x[Math.round(last / 2)] as number);
    if (event.key === "Escape") setMarks([]);
    else if (event.key === "+") onTurn({ factor: 0.5, about });
    else if (event.key === "-") onTurn({ factor: 2, about });
    else if (event.key === "Enter") mark(Math.round(last / 2));
    else if (way) {
      event.preventDefault();
      const stride = way * (event.shiftKey ? Math.max(1, Math.round(last / 25)) : 1);
      const moved = kept.length ? (kept.at(-1) as number) + stride : Math.round(last / 2);
      setPlaces([...kept.slice(0, -1), Math.min(Math.max(moved, 0), last)]);
    }
  };
  return (
    <>
      {isPhasors && (
        <div className="-mt-2 mb-2 w-96">
          <Switched
            label="Drawn as"
            value={form}
            options={[
              { value: "decibels", text: "dB" },
              { value: "plain", text: "Plain" },
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
        aria-label={`Plot of ${look.curves.map(nameOf).join(", ")}; arrow keys move a marker, Enter sets another`}
        onKeyDown={onKeyDown}
        className="rounded-md bg-raised py-1"
      >
        {isPhasors && form === "path" && (
          <Paths look={look} marks={kept} hidden={(curve) => hidden.has(nameOf(curve))} />
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
            marks={kept}
            isLast={k === panes.length - 1}
            limits={limits[pane.key] ?? NONE}
            onMark={mark}
            onZoom={zoom}
            onTurn={onTurn}
            onMade={made}
          />
        ))}
        <Ends
          run={run}
          look={look}
          isLog={isLog}
          plots={plots}
          margin={margin + (panes.some((pane) => pane.side) ? SIDE : 0)}
        />
      </div>
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
      <Marked
        look={look}
        panes={panes}
        marks={kept}
        onClear={() => setMarks([])}
        onJump={jump}
        onTake={onTake}
        onNote={(text) => {
          const at = look.x[kept.at(-1) as number] as number;
          const curve = look.curves.find((each) => !hidden.has(nameOf(each)));
          if (!curve) return;
          changeRun(run.id, (own) => {
            const member = curve.member?.key ?? "";
            own.notes.push({ id: freshId("n", own.notes), curve: curve.text, member, at, text });
          });
        }}
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
                aria-label={`Take the note ${note.text} away`}
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
      <ul aria-label="Readings" className="mt-3 space-y-2.5">
        {look.curves.map((curve, hue) =>
          isBuild(curve) ? null : (
            <li
              key={nameOf(curve)}
              className="grid grid-cols-[minmax(7rem,max-content)_1fr] items-baseline text-sm"
            >
              <button
                type="button"
                aria-pressed={!hidden.has(nameOf(curve))}
                onClick={() => {
                  const next = new Set(hidden);
                  if (!next.delete(nameOf(curve))) next.add(nameOf(curve));
                  setHidden(next);
                }}
                className={`relative mr-3 flex items-center gap-1.5 font-serif italic ${hidden.has(nameOf(curve)) ? "opacity-50" : ""}`}
              >
                <span
                  aria-hidden="true"
                  className="h-0.5 w-4"
                  style={
                    curve.by_hand
                      ? { borderTop: "2px dashed var(--hand)" }
                      : { background: `var(--curve-${(hue % HUES) + 1})` }
                  }
                />
                <span className="sr-only">Show {nameOf(curve)}</span>
                <span aria-hidden="true">
                  <Named text={nameOf(curve)} />
                </span>
              </button>
              <dl className="flex flex-wrap gap-x-3 gap-y-0.5">
                {curve.readings.map((figure) => (
                  <div
                    key={figure.key}
                    className="flex items-baseline gap-1.5"
                    title={figure.exact}
                  >
                    <dt className="text-soft">{figure.label}</dt>
                    <dd
                      className={`figure flex items-center gap-1 ${curve.by_hand ? "voice-hand" : "text-simulated"}`}
                    >
                      {figure.at === null || figure.at === undefined ? (
                        figure.text
                      ) : (
                        <button
                          type="button"
                          aria-label={`${figure.text}, mark it`}
                          onClick={() => mark(nearest(look.x, figure.at as number))}
                          className="underline decoration-dotted underline-offset-3"
                        >
                          {figure.text}
                        </button>
                      )}
                      <TakeButton
                        label={`${figure.label} ${figure.text}`}
                        onTake={() =>
                          onTake({
                            symbol: figure.symbol,
                            label: `${figure.label} of ${nameOf(curve)}`,
                            value: figure.value,
                            unit: figure.unit,
                            of: {
                              quantity: curve.text,
                              reading: figure.key,
                              member: curve.member?.key ?? "",
                            },
                          })
                        }
                      />
                    </dd>
                  </div>
                ))}
              </dl>
            </li>
          ),
        )}
      </ul>
    </>
  );
});

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
      const forgotten = "For more points here, let the run be carried out again.";
      say(isForgotten(error) ? forgotten : (error as Error).message);
    }
  };
  return { look: closer?.of === whole ? closer.look : whole, zoom, turned };
}

/** The place in `x`, rising, that is closest to `at`. */
function nearest(x: number[], at: number): number {
  const after = x.findIndex((value) => value >= at);
  if (after <= 0) return after < 0 ? x.length - 1 : 0;
  return at - (x[after - 1] as number) < (x[after] as number) - at ? after - 1 : after;
}
