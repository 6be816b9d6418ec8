// The plots of a run, two markers across them, and the figures read off each curve.
import { type KeyboardEvent, useState } from "react";
import type { RunLook } from "../api/types";
import { engineering } from "../ui/engineering";
import { Switched } from "../ui/Field";
import { HUES, Plot } from "./Plot";
import { type Magnitude, nameOf, type Pane, panesOf } from "./panes";

const [LEAST_MARGIN, MOST_MARGIN] = [64, 140]; // px
const HEIGHTS = [300, 190, 150, 130]; // px of each plot, by how many there are

export function Curves({ look, ghost }: { look: RunLook; ghost: RunLook | null }) {
  const [magnitude, setMagnitude] = useState<Magnitude>("decibels");
  const [hidden, setHidden] = useState<Set<string>>(new Set());
  const [marks, setMarks] = useState<number[]>([]);
  const panes = panesOf(look, magnitude, hidden);
  // The same for all, so that their axes stand one above the other.
  const longest = Math.max(0, ...panes.flatMap((p) => p.traces.map((t) => t.label.length)));
  const margin = Math.min(Math.max(LEAST_MARGIN, 12 + 7 * longest), MOST_MARGIN);
  const before = ghost ? panesOf(ghost, magnitude, hidden) : [];
  const isPhasors = look.curves.some((curve) => curve.phase);
  const last = look.x.length - 1;
  const kept = marks.filter((place) => place <= last);
  const height = HEIGHTS[Math.min(panes.length, HEIGHTS.length) - 1] ?? 300;

  /** The first press sets A, the second B; after that the nearer one comes along. */
  const mark = (place: number) => {
    if (kept.length < 2) setMarks([...kept, place]);
    else {
      const nearer = Math.abs((kept[0] ?? 0) - place) <= Math.abs((kept[1] ?? 0) - place) ? 0 : 1;
      setMarks(kept.map((old, k) => (k === nearer ? place : old)));
    }
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const way = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (event.key === "Escape") setMarks([]);
    else if (event.key === "Enter") mark(Math.round(last / 2));
    else if (way) {
      event.preventDefault();
      const stride = way * (event.shiftKey ? Math.max(1, Math.round(last / 25)) : 1);
      const moved = kept.length ? (kept.at(-1) as number) + stride : Math.round(last / 2);
      setMarks([...kept.slice(0, -1), Math.min(Math.max(moved, 0), last)]);
    }
  };
  return (
    <>
      {isPhasors && (
        <div className="-mt-2 mb-2 w-44">
          <Switched
            label="Magnitude as"
            value={magnitude}
            options={[
              { value: "decibels", text: "dB" },
              { value: "plain", text: "Plain" },
            ]}
            onChange={(to) => setMagnitude(to as Magnitude)}
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
        {panes.map((pane, k) => (
          <Plot
            key={pane.key}
            pane={pane}
            x={look.x}
            ghost={ghost && { x: ghost.x, pane: before.find((other) => other.key === pane.key) }}
            axis={look.axis}
            unit={look.axis_unit}
            isLog={look.is_log}
            height={height}
            margin={margin}
            marks={kept}
            isLast={k === panes.length - 1}
            onMark={mark}
          />
        ))}
      </div>
      <Marked look={look} panes={panes} marks={kept} onClear={() => setMarks([])} />
      <ul aria-label="Readings" className="mt-3 space-y-2.5">
        {look.curves.map((curve, hue) => (
          <li
            key={nameOf(curve)}
            className="grid grid-cols-[minmax(7rem,max-content)_1fr] items-baseline text-sm"
          >
            <button
              type="button"
              aria-pressed={!hidden.has(nameOf(curve))}
              aria-label={`Show ${nameOf(curve)}`}
              onClick={() => {
                const next = new Set(hidden);
                if (!next.delete(nameOf(curve))) next.add(nameOf(curve));
                setHidden(next);
              }}
              className={`mr-3 flex items-center gap-1.5 font-serif italic ${hidden.has(nameOf(curve)) ? "opacity-50" : ""}`}
            >
              <span
                aria-hidden="true"
                className="h-0.5 w-4"
                style={{ background: `var(--curve-${(hue % HUES) + 1})` }}
              />
              {nameOf(curve)}
            </button>
            <dl className="flex flex-wrap gap-x-4 gap-y-0.5">
              {curve.readings.map((figure) => (
                <div key={figure.label} className="flex gap-1.5" title={figure.exact}>
                  <dt className="text-soft">{figure.label}</dt>
                  <dd className="figure text-simulated">
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
                  </dd>
                </div>
              ))}
            </dl>
          </li>
        ))}
      </ul>
    </>
  );
}

/** The place in `x`, rising, that is closest to `at`. */
function nearest(x: number[], at: number): number {
  const after = x.findIndex((value) => value >= at);
  if (after <= 0) return after < 0 ? x.length - 1 : 0;
  return at - (x[after - 1] as number) < (x[after] as number) - at ? after - 1 : after;
}

interface MarkedProps {
  look: RunLook;
  panes: Pane[];
  marks: number[];
  onClear(): void;
}

/** What stands at the markers, and between them. */
function Marked({ look, panes, marks, onClear }: MarkedProps) {
  const [a, b] = marks;
  if (a === undefined)
    return (
      <p className="mt-1 text-xs text-soft">
        Press on a plot to set a marker; sweep to look closer, press twice to see all again.
      </p>
    );
  const at = (place: number) => look.x[place] as number;
  const apart = b === undefined ? null : at(b) - at(a);
  const inverse = look.axis_unit === "s" ? "Hz" : look.axis_unit === "Hz" ? "s" : "";
  return (
    <table aria-label="Markers" className="figure mt-2 w-full text-right text-sm">
      <thead className="text-soft">
        <tr>
          <th className="text-left font-normal">
            <button type="button" onClick={onClear} className="underline underline-offset-2">
              Clear
            </button>
          </th>
          <th className="font-medium">A</th>
          {b !== undefined && <th className="font-medium">B</th>}
          {b !== undefined && <th className="font-medium">B − A</th>}
        </tr>
      </thead>
      <tbody>
        <tr>
          <th className="text-left font-normal italic">{look.axis}</th>
          <td>{engineering(at(a), look.axis_unit, 5)}</td>
          {b !== undefined && <td>{engineering(at(b), look.axis_unit, 5)}</td>}
          {apart !== null && (
            <td>
              {engineering(apart, look.axis_unit, 5)}
              {apart !== 0 && inverse && (
                <span className="text-soft">
                  {" "}
                  (1/ = {engineering(1 / Math.abs(apart), inverse)})
                </span>
              )}
            </td>
          )}
        </tr>
        {panes.flatMap((pane) =>
          pane.traces.map((trace) => {
            const [first, second] = [trace.y[a], b === undefined ? null : trace.y[b]];
            return (
              <tr key={`${pane.key} ${trace.name}`}>
                <th className="text-left font-serif font-normal italic">
                  {pane.key === "phase" ? `phase of ${trace.name}` : trace.name}
                </th>
                <td>{first == null ? "" : engineering(first, pane.unit)}</td>
                {b !== undefined && <td>{second == null ? "" : engineering(second, pane.unit)}</td>}
                {b !== undefined && (
                  <td>
                    {first == null || second == null ? "" : engineering(second - first, pane.unit)}
                  </td>
                )}
              </tr>
            );
          }),
        )}
      </tbody>
    </table>
  );
}
