// What was measured, as dots with error bars, and curves through them: tolerances alone, and a cause.
import { useState } from "react";
import type { ChartLook } from "../api/types";
import { engineering } from "../ui/engineering";
import { Named } from "../ui/Named";
import { ticksOf } from "../ui/ticks";

const WIDTH = 560;
const HEIGHT = 176;
const LEFT = 58;
const RIGHT = 10;
const TOP = 8;
const BOTTOM = 24;
const MOST_DOTS = 120; // more are one cloud
const ROOM = 0.06;

interface Props {
  chart: ChartLook;
  /** The number of the cause that is drawn; null: tolerances alone. */
  cause: number | null;
  label: string;
}

export function Chart({ chart, cause, label }: Props) {
  const [id] = useState(() => `why${Math.random().toString(36).slice(2)}`);
  const { x, values, errors, curves, is_log } = chart;
  const alone = curves[0] ?? [];
  const drawn = cause === null ? null : curves[cause + 1];
  const shown = [...values, ...alone, ...(drawn ?? [])].filter(Number.isFinite);
  let [low, high] = [Math.min(...shown), Math.max(...shown)];
  if (!(high > low)) [low, high] = [low - 1, high + 1];
  const room = ROOM * (high - low);
  const place = is_log ? Math.log10 : (v: number) => v;
  const [first, last] = [place(x[0] ?? 0), place(x.at(-1) ?? 1)];
  const px = (v: number) =>
    LEFT + ((WIDTH - LEFT - RIGHT) * (place(v) - first)) / (last - first || 1);
  const py = (v: number) =>
    TOP + ((HEIGHT - TOP - BOTTOM) * (high + room - v)) / (high - low + 2 * room);
  const path = (curve: number[]) =>
    curve.map((v, k) => `${k ? "L" : "M"}${px(x[k] ?? 0).toFixed(1)},${py(v).toFixed(1)}`).join("");
  const every = Math.max(1, Math.ceil(x.length / MOST_DOTS));
  const marks = ticksOf(low - room, high + room, 4);
  return (
    <figure className="mt-2">
      <figcaption className="text-[13px] text-soft">
        <Named text={chart.name} />
      </figcaption>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`${chart.name}: measured dots, ${label}`}
        className="w-full"
      >
        <clipPath id={id}>
          <rect x={LEFT} y={TOP} width={WIDTH - LEFT - RIGHT} height={HEIGHT - TOP - BOTTOM} />
        </clipPath>
        {marks.map((v) => (
          <g key={v}>
            <line x1={LEFT} x2={WIDTH - RIGHT} y1={py(v)} y2={py(v)} className="stroke-ruling" />
            <text
              x={LEFT - 6}
              y={py(v) + 4}
              textAnchor="end"
              className="figure fill-soft text-[11px]"
            >
              {engineering(v, chart.unit, 3)}
            </text>
          </g>
        ))}
        {[x[0], x.at(-1)].map((v, k) => (
          <text
            key={k ? "last" : "first"}
            x={k ? WIDTH - RIGHT : LEFT}
            y={HEIGHT - 7}
            textAnchor={k ? "end" : "start"}
            className="figure fill-soft text-[11px]"
          >
            {engineering(v ?? 0, chart.axis_unit, 3)}
          </text>
        ))}
        <g clipPath={`url(#${id})`}>
          <g className="stroke-bench">
            {x.map((at, k) =>
              k % every ? null : (
                <line
                  key={at}
                  x1={px(at)}
                  x2={px(at)}
                  y1={py((values[k] ?? 0) - (errors[k] ?? 0))}
                  y2={py((values[k] ?? 0) + (errors[k] ?? 0))}
                />
              ),
            )}
          </g>
          <path
            d={path(alone)}
            className="fill-none stroke-simulated"
            strokeWidth={1.2}
            strokeDasharray={drawn ? "5 4" : undefined}
          />
          {drawn && (
            <path d={path(drawn)} className="fill-none stroke-simulated" strokeWidth={1.6} />
          )}
          <g className="fill-bench">
            {x.map((at, k) =>
              k % every ? null : <circle key={at} cx={px(at)} cy={py(values[k] ?? 0)} r={2.2} />,
            )}
          </g>
        </g>
      </svg>
    </figure>
  );
}
