// Asymptotes in pencil with the curve they stand for in ink: magnitude over frequency.

import { engineering } from "../ui/engineering";
import { ticksOf } from "../ui/ticks";

const WIDTH = 560;
const HEIGHT = 190;
const LEFT = 52;
const RIGHT = 12;
const TOP = 10;
const BOTTOM = 26;

type Places = [number, number][];

export function AsymptotesPlot({ lines, curve }: { lines: Places; curve: Places }) {
  const levels = [...lines, ...curve].map(([, db]) => db);
  const [low, high] = [Math.min(...levels), Math.max(...levels)];
  const room = Math.max(3, 0.08 * (high - low));
  const [first, last] = [curve[0]?.[0] ?? 1, curve.at(-1)?.[0] ?? 10];
  const px = (f: number) =>
    LEFT + ((WIDTH - LEFT - RIGHT) * Math.log10(f / first)) / Math.log10(last / first);
  const py = (db: number) =>
    TOP + ((HEIGHT - TOP - BOTTOM) * (high + room - db)) / (high - low + 2 * room);
  const path = (places: Places) =>
    places.map(([f, db], k) => `${k ? "L" : "M"}${px(f).toFixed(1)},${py(db).toFixed(1)}`).join("");
  const decades: number[] = [];
  for (let k = Math.ceil(Math.log10(first)); k <= Math.log10(last); k++) decades.push(10 ** k);
  return (
    <figure className="mt-3">
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label="Asymptotes and curve of the gain over frequency"
        className="w-full"
      >
        {ticksOf(low - room, high + room, 4).map((db) => (
          <g key={db}>
            <line x1={LEFT} x2={WIDTH - RIGHT} y1={py(db)} y2={py(db)} className="stroke-ruling" />
            <text x={LEFT - 6} y={py(db) + 4} textAnchor="end" className="fill-soft text-[12px]">
              {db} dB
            </text>
          </g>
        ))}
        {decades.map((f) => (
          <g key={f}>
            <line x1={px(f)} x2={px(f)} y1={TOP} y2={HEIGHT - BOTTOM} className="stroke-ruling" />
            <text x={px(f)} y={HEIGHT - 8} textAnchor="middle" className="fill-soft text-[12px]">
              {engineering(f, "Hz")}
            </text>
          </g>
        ))}
        <path d={path(curve)} fill="none" strokeWidth={1.8} className="stroke-simulated" />
        <path
          d={path(lines)}
          fill="none"
          strokeWidth={1.4}
          strokeDasharray="5 4"
          className="stroke-hand"
        />
      </svg>
      <figcaption className="text-[13px] text-soft">
        Dashed: the asymptotes, which bend at the corners. Solid: the gain itself.
      </figcaption>
    </figure>
  );
}
