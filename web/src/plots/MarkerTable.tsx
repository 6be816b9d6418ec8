// What stands at the markers and between them, to be read, copied and taken into the ledger.
import { BookmarkPlus, Copy, X } from "lucide-react";
import { useEffect, useRef } from "react";
import type { Marker, RunLook } from "../api/types";
import { LETTERS } from "../document/runs";
import { IconButton } from "../ui/Button";
import { engineering, typed } from "../ui/engineering";
import { Named } from "../ui/Named";
import { Pill } from "../ui/Pill";
import { say } from "../ui/Toasts";
import type { Dots } from "./drawing/benchDots";
import { JUMPS } from "./drawing/jumps";
import { drawnAt } from "./drawing/marks";
import { type Pane, shownAs, type Trace } from "./drawing/panes";
import type { Takeable } from "./taking";
import type { Markers } from "./useMarkers";

const ROUNDING = 1e-12; // of a figure

const LAID_OUT = 120; // ms after which plots have their new height, and the figures came
const DIGITS = 5; // of a place on the axis

interface Props {
  look: RunLook;
  panes: Pane[];
  /** What the bench says, by the key of the plot it stands in. */
  dots: Map<string, Dots[]>;
  isLog: boolean;
  markers: Markers;
  onTake(figure: Takeable): void;
  /** Words to stand at the last marker. */
  onNote(text: string): void;
}

export function MarkerTable({ look, panes, dots, isLog, markers, onTake, onNote }: Props) {
  const { marks, active, told } = markers;
  const block = useRef<HTMLDivElement>(null);
  const count = marks.length;
  const before = useRef(count);
  // With a marker the readout comes into view once it is laid out, and the plots above it stay there.
  useEffect(() => {
    const isMore = count > before.current;
    before.current = count;
    if (!isMore) return;
    const timer = setTimeout(() => block.current?.scrollIntoView({ block: "nearest" }), LAID_OUT);
    return () => clearTimeout(timer);
  }, [count]);
  if (!marks.length)
    return (
      <p className="mt-1 text-xs text-soft">
        Press on a curve to set a marker. Drag to zoom, double-click to reset; Shift and the wheel
        move along.
      </p>
    );
  const rows = rowsOf(look, panes, isLog, markers, dots);
  const heads = marks.length > 1 ? ["A", "B", "B − A"] : ["A"];
  const between = told?.between ?? [];
  const copy = () => {
    const lines = rows.map((row) =>
      [row.name, ...row.values.map((v) => (v == null ? "" : `${v}`)), row.unit].join("\t"),
    );
    const more = between.map(({ label, value, unit }) => [label, value, unit].join("\t"));
    navigator.clipboard
      .writeText([["", ...heads, "unit"].join("\t"), ...lines, ...more].join("\n"))
      .then(
        () => say("The readout is copied."),
        () => say("The browser does not let the page copy."),
      );
  };
  return (
    <div ref={block} className="mt-1">
      <div className="mt-1 flex flex-wrap items-center gap-1.5 text-xs text-soft print:hidden">
        <span>{LETTERS[active]} to</span>
        {JUMPS.filter(({ over }) => !over || over === look.axis_unit).map(
          ({ kind, text, meaning }) => (
            <Pill key={kind} onClick={() => markers.jump(kind)} title={meaning} className="px-2!">
              {text}
            </Pill>
          ),
        )}
        <input
          aria-label="Note at the marker"
          placeholder="Note …"
          maxLength={80}
          onKeyDown={(event) => {
            event.stopPropagation();
            const text = event.currentTarget.value.trim();
            if (event.key !== "Enter" || !text) return;
            onNote(text);
            event.currentTarget.value = "";
          }}
          className="w-16 min-w-12 grow rounded-md border border-edge bg-paper px-2 py-0.5 text-ink"
        />
        <IconButton label="Copy the readout" onClick={copy} className="size-7!">
          <Copy size={14} />
        </IconButton>
        <IconButton
          label="Clear the markers"
          shortcut="Esc"
          onClick={() => markers.set([])}
          className="size-7!"
        >
          <X size={14} />
        </IconButton>
      </div>
      <table aria-label="Markers" className="figure mt-1 w-full text-right text-sm">
        <thead className="text-soft">
          <tr>
            <td />
            {heads.map((head, k) => {
              const mark = marks[k];
              return (
                <th key={head} className="font-medium">
                  {mark ? <CurveOfMarker {...{ k, mark, panes, dots, markers }} /> : head}
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name}>
              <th
                className={`text-left font-serif font-normal ${row.isMeasured ? "voice-bench" : "italic"}`}
              >
                <Named text={row.name} />
              </th>
              {row.values.map((value, k) => (
                <td
                  key={heads[k]}
                  className={
                    row.marked.includes(k) ? "font-semibold" : row.marked.length ? "text-soft" : ""
                  }
                >
                  {row.isAxis && marks[k] && (
                    <PlaceOfMarker k={k} at={marks[k].at} unit={row.unit} markers={markers} />
                  )}
                  {value != null && !(row.isAxis && marks[k]) && (
                    <Taken onTake={() => onTake(row.figure(k, value))}>
                      {engineering(value, row.unit, row.isAxis ? DIGITS : 4)}
                    </Taken>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {between.length > 0 && (
        <dl
          aria-label="Between the markers"
          className="mt-1 flex flex-wrap gap-x-4 gap-y-0.5 text-sm"
        >
          {between.map((figure) => (
            <div key={figure.key} className="flex items-baseline gap-1.5">
              <dt className="text-soft">
                <Named text={figure.label} />
              </dt>
              <dd className="figure text-simulated">
                <Taken
                  onTake={() =>
                    onTake({
                      ...atMarker(figure.symbol, figure.label, figure.value, figure.unit),
                      of: (run) => ({ of: "between", run, reading: figure.key, case: "" }),
                    })
                  }
                >
                  {figure.text}
                </Taken>
              </dd>
            </div>
          ))}
        </dl>
      )}
    </div>
  );
}

interface CurveProps {
  k: number;
  mark: Marker;
  panes: Pane[];
  dots: Map<string, Dots[]>;
  markers: Markers;
}

const changed = ({ marks }: Markers, k: number, to: Partial<Marker>): Marker[] =>
  marks.map((other, n) => (n === k ? { ...other, ...to } : other));

/** Which curve a marker is on. */
function CurveOfMarker({ k, mark, panes, dots, markers }: CurveProps) {
  const letter = LETTERS[k] as string;
  return (
    <span className="inline-flex items-center gap-1 font-sans">
      <button
        type="button"
        aria-label={`Move marker ${letter}`}
        title="Move this one by keys and jumps"
        aria-pressed={markers.active === k}
        onClick={() => markers.activate(k)}
        className="size-6 rounded-full border border-edge text-xs font-medium aria-pressed:bg-ink aria-pressed:text-paper"
      >
        {letter}
      </button>
      <select
        aria-label={`Curve of marker ${letter}`}
        value={JSON.stringify([mark.curve, mark.member])}
        onChange={(event) => {
          const [curve, member] = JSON.parse(event.target.value) as [string, string];
          markers.activate(k);
          markers.set(changed(markers, k, { curve, member }));
        }}
        className="max-w-28 rounded-md border border-edge bg-paper px-1 py-0.5 font-serif text-[13px] text-ink italic"
      >
        {[...tracesOf(panes), ...measuredIn(dots)].map((trace) => (
          <option key={trace.name} value={JSON.stringify([trace.formula, trace.member])}>
            {trace.name}
          </option>
        ))}
      </select>
    </span>
  );
}

interface PlaceProps {
  k: number;
  at: number;
  unit: string;
  markers: Markers;
}

/** Where on the axis a marker stands, to be typed too. */
function PlaceOfMarker({ k, at, unit, markers }: PlaceProps) {
  const text = engineering(at, unit, DIGITS);
  return (
    <input
      key={text}
      aria-label={`Place of marker ${LETTERS[k]}`}
      defaultValue={text}
      spellCheck={false}
      onFocus={() => markers.activate(k)}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Enter") event.currentTarget.blur();
      }}
      onBlur={(event) => {
        const to = typed(event.target.value);
        if (to !== null && event.target.value !== text)
          markers.set(changed(markers, k, { at: to }));
        else event.target.value = text;
      }}
      className="h-6.5 w-28 rounded-md border border-edge bg-paper px-1.5 text-right text-ink"
    />
  );
}

function Taken({ onTake, children }: { onTake(): void; children: string }) {
  return (
    <button
      type="button"
      title="Add to the ledger"
      onClick={onTake}
      className="min-h-6 min-w-6 decoration-dotted underline-offset-3 hover:underline"
    >
      {children}
    </button>
  );
}

export interface Row {
  name: string;
  unit: string;
  isAxis: boolean;
  isMeasured: boolean;
  values: (number | null)[];
  /** Which of the markers are on this curve. */
  marked: number[];
  figure(k: number, value: number): Takeable;
}

/** Curves that a marker can be on, each once. */
export const tracesOf = (panes: Pane[]): Trace[] =>
  panes
    .flatMap((pane) => pane.traces)
    .filter((trace, k, all) => trace.label && all.findIndex((t) => t.name === trace.name) === k);

/** Measured curves that a marker can be on, each once, whatever plots they stand in. */
const measuredIn = (dots: Map<string, Dots[]>): Dots[] =>
  [...dots.values()].flat().filter((of, k, all) => all.findIndex((o) => o.name === of.name) === k);

/** A row for the axis, then one for each curve: as the server told it, till then as it is drawn. */
/** What two figures differ by; 0 where that is their rounding. */
const apart = (a: number, b: number): number =>
  Math.abs(b - a) <= ROUNDING * Math.max(Math.abs(a), Math.abs(b)) ? 0 : b - a;

export function rowsOf(
  look: RunLook,
  panes: Pane[],
  isLog: boolean,
  { marks, told }: Pick<Markers, "marks" | "told">,
  dots: Map<string, Dots[]> = new Map(),
): Row[] {
  const current = told && isOf(told.marks, marks) ? told : null;
  const withDifference = (values: (number | null)[]) => {
    const [a, b] = values;
    return values.length < 2 ? values : [...values, a == null || b == null ? null : apart(a, b)];
  };
  const letter = { s: "t", Hz: "f" }[look.axis_unit] ?? "x";
  const rowOf = (name: string, unit: string, values: (number | null)[], symbol: string): Row => ({
    name,
    unit,
    isAxis: name === look.axis,
    isMeasured: false,
    values: withDifference(values),
    marked: [],
    figure: (k, value) =>
      atMarker(
        `${symbol}_${"ABD"[k]}`,
        `${name} ${["at A", "at B", "from A to B"][k]}`,
        value,
        unit,
      ),
  });
  const axis = rowOf(
    look.axis,
    look.axis_unit,
    marks.map(({ at }) => at),
    letter,
  );
  const rows = panes.flatMap((pane) => {
    const title = pane.part === "decibels" || pane.part === "value" ? "" : pane.title.toLowerCase();
    /** The row of a curve, which is drawn over `x`. */
    const rowOfCurve = (of: Trace | Dots, x: number[], isSide: boolean): Row => {
      const row = current?.values.find(
        ({ text, member }) => text === of.formula && member === of.member,
      );
      const values = marks.map(({ at }, k) => {
        const drawn = drawnAt(x, of.y, at, isLog);
        const value = row?.values[k];
        if (value === undefined) return drawn;
        const phase = row?.phases?.[k] ?? null;
        return shownAs(pane.part, value, phase === null ? null : beside(phase, drawn));
      });
      const name = title ? `${title} of ${of.name}` : of.name;
      const marked = marks.flatMap((mark, k) =>
        mark.curve === of.formula && mark.member === of.member ? [k] : [],
      );
      const unit = isSide && pane.side ? pane.side : pane.unit;
      return { ...rowOf(name, unit, values, "x"), marked: marks.length > 1 ? marked : [] };
    };
    const simulated = pane.traces
      .filter((trace) => trace.label || trace.aside)
      .map((trace): Row => {
        const row = rowOfCurve(trace, look.x, Boolean(trace.aside));
        // A value at a marker is a figure of the curve, and follows it in the ledger.
        const figure: Row["figure"] = (k, value) => {
          const taken = row.figure(k, value);
          if (k > 1 || pane.part !== "value") return taken;
          const { formula: curve, member } = trace;
          const marker = k ? "B" : "A";
          return {
            ...taken,
            of: (run) => ({ of: "marker", run, curve, member, marker, case: "" }),
          };
        };
        return { ...row, figure };
      });
    const measured = (dots.get(pane.key) ?? []).map((of) => ({
      ...rowOfCurve(of, of.x, of.scale === "side"),
      isMeasured: true,
    }));
    return [...simulated, ...measured];
  });
  return [axis, ...rows];
}

const isOf = (told: Marker[], marks: Marker[]) =>
  told.length === marks.length && told.every(({ at }, k) => at === marks[k]?.at);

/** The angle as many turns on as it is drawn. */
const beside = (phase: number, drawn: number | null) =>
  drawn === null ? phase : phase + 360 * Math.round((drawn - phase) / 360);

/** A figure by the words it is told in: what is shown otherwise than as it is read is not followed. */
const atMarker = (symbol: string, label: string, value: number, unit: string): Takeable => ({
  symbol,
  label,
  value,
  unit,
  of: () => ({ of: "taken", words: label, case: "" }),
});

/** The button beside a figure that puts it into the ledger. */
export function TakeButton({ label, onTake }: { label: string; onTake(): void }) {
  return (
    <button
      type="button"
      aria-label={`${label}, add to the ledger`}
      title="Add to the ledger"
      onClick={onTake}
      className="grid size-6 place-items-center rounded text-soft hover:bg-ruling hover:text-ink"
    >
      <BookmarkPlus size={13} />
    </button>
  );
}
