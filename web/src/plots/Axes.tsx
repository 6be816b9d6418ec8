// How the plots are looked at, where one wants it otherwise: what is drawn, on which axes, with what limits.
import { engineering, typed } from "../ui/engineering";
import { Named } from "../ui/Named";
import type { Looks, Pane } from "./drawing/panes";

type Pair = [number | null, number | null];
export type Limits = Record<string, Pair>;
export const NONE: Pair = [null, null];

/** Sizes above zero can be drawn by their logarithm. */
export const canBeLog = (pane: Pane) =>
  pane.unit !== "dB" &&
  pane.unit !== "°" &&
  pane.traces.some((trace) => trace.y.some((v) => v !== null && v > 0));

interface Props {
  panes: Pane[];
  looks: Looks;
  isPhasors: boolean;
  /** Along the axis, and of the sizes. */
  log: [boolean, boolean];
  canLog: [boolean, boolean];
  limits: Limits;
  onLooks(looks: Looks): void;
  onLog(x: boolean, y: boolean): void;
  onLimits(key: string, to: Pair): void;
}

export function Axes(props: Props) {
  const { panes, looks, isPhasors, log, canLog, limits, onLooks, onLog, onLimits } = props;
  const sized = looks.form === "decibels" || looks.form === "plain";
  const canShare = looks.together || panes.length === 2;
  return (
    <details className="mt-1 text-xs text-soft print:hidden">
      <summary className="cursor-pointer">Axes</summary>
      <div className="mt-1.5 flex flex-wrap gap-x-4 gap-y-1">
        {isPhasors && sized && (
          <>
            <Tick
              text="Magnitude"
              on={looks.magnitude}
              off={!looks.phase}
              onChange={(magnitude) => onLooks({ ...looks, magnitude })}
            />
            <Tick
              text="Phase"
              on={looks.phase}
              off={!looks.magnitude}
              onChange={(phase) => onLooks({ ...looks, phase })}
            />
            <Tick
              text="Phase from −180° to 180°"
              on={looks.isWrapped}
              off={!looks.phase}
              onChange={(isWrapped) => onLooks({ ...looks, isWrapped })}
            />
          </>
        )}
        <Tick
          text="Two units in one plot"
          on={looks.together}
          off={!canShare || looks.form === "path"}
          onChange={(together) => onLooks({ ...looks, together })}
        />
        <Tick text="Log x axis" on={log[0]} off={!canLog[0]} onChange={(on) => onLog(on, log[1])} />
        <Tick text="Log y axis" on={log[1]} off={!canLog[1]} onChange={(on) => onLog(log[0], on)} />
      </div>
      <ul className="mt-1.5 space-y-1">
        {panes.map((pane) => {
          const of = pane.title || pane.traces.map((trace) => trace.label).join(", ");
          return (
            <li key={pane.key} className="flex items-center gap-2">
              <span className="min-w-20">{pane.title || <Named text={of} />}</span>
              {(["from", "to"] as const).map((end, k) => (
                <label key={end} className="flex items-center gap-1.5">
                  {end}
                  <input
                    aria-label={`${of} ${end}`}
                    defaultValue={
                      limits[pane.key]?.[k] == null
                        ? ""
                        : engineering(limits[pane.key]?.[k] as number, pane.unit)
                    }
                    placeholder="auto"
                    onChange={(event) => {
                      const to: Pair = [...(limits[pane.key] ?? NONE)];
                      to[k] = typed(event.target.value);
                      onLimits(pane.key, to);
                    }}
                    className="figure w-24 rounded-md border border-edge bg-paper px-2 py-0.5 text-ink"
                  />
                </label>
              ))}
              {pane.unit}
            </li>
          );
        })}
      </ul>
    </details>
  );
}

interface TickProps {
  text: string;
  on: boolean;
  /** Whether it cannot be changed now. */
  off: boolean;
  onChange(on: boolean): void;
}

function Tick({ text, on, off, onChange }: TickProps) {
  return (
    <label className={`flex items-center gap-1.5 ${off ? "opacity-50" : ""}`}>
      <input
        type="checkbox"
        checked={on}
        disabled={off}
        onChange={(event) => onChange(event.target.checked)}
        className="accent-[var(--accent)]"
      />
      {text}
    </label>
  );
}
