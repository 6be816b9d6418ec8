// Beside a line: whether it is equal to the exact result, an approximation of it, or wrong.
import { Equal, EqualApproximately, EqualNot } from "lucide-react";
import type { Exactness } from "../api/types";
import { engineering } from "../ui/engineering";

const MARKS = {
  equal: { word: "exact", Mark: Equal, tone: "text-accent" },
  approximate: { word: "approximate", Mark: EqualApproximately, tone: "text-doubt" },
  wrong: { word: "not right", Mark: EqualNot, tone: "text-fault" },
} as const;
const HERE = { ...MARKS.approximate, word: "at these values" };
const AS_IN_TEXTBOOKS = { ...MARKS.equal, word: "textbook" };

/** Equal to the textbook form alone, and so beside the simulation. */
export const isTextbook = (held: Exactness) =>
  held.state === "equal" && held.reference === "simulation";

export function ExactMark({ held }: { held: Exactness }) {
  const isHere = held.verdict === "equal_at_these_values";
  const { word, Mark, tone } = isTextbook(held)
    ? AS_IN_TEXTBOOKS
    : isHere
      ? HERE
      : MARKS[held.state];
  return (
    <span
      className={`inline-flex items-center gap-1 text-[13px] ${tone}`}
      title={
        held.reference === "circuit"
          ? "Beside the circuit's own equations, at these values and at others"
          : "Beside the simulation, at these values and at others"
      }
    >
      <Mark size={14} aria-hidden="true" />
      {word}
    </span>
  );
}

export function ExactLine({ held }: { held: Exactness }) {
  return (
    <div className="mt-0.5 flex items-end gap-3">
      <p className="grow text-[13px] text-soft">{held.sentence}</p>
      {held.band && <ErrorCurve band={held.band} />}
    </div>
  );
}

const WIDTH = 190;
const HEIGHT = 56;
const LEFT = 34;
const BOTTOM = 14;

/** How large the error is over a frequency, a time, or the value of what is left out. */
function ErrorCurve({ band }: { band: NonNullable<Exactness["band"]> }) {
  const { of, unit, x, errors } = band;
  const first = x[0] ?? 0;
  const last = x.at(-1) ?? 1;
  const isLog = first > 0 && last / first > 20;
  const place = isLog ? Math.log10 : (v: number) => v;
  const top = Math.max(...errors) || 1;
  const px = (v: number) =>
    LEFT + ((WIDTH - LEFT - 2) * (place(v) - place(first))) / (place(last) - place(first) || 1);
  const py = (e: number) => 3 + (HEIGHT - BOTTOM - 3) * (1 - e / top);
  const path = x.map(
    (v, k) => `${k ? "L" : "M"}${px(v).toFixed(1)},${py(errors[k] ?? 0).toFixed(1)}`,
  );
  const percent = `${Number((100 * top).toPrecision(2))} %`;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Error over ${of}, up to ${percent}`}
      className="w-48 shrink-0"
    >
      <line x1={LEFT} x2={WIDTH} y1={py(0)} y2={py(0)} className="stroke-edge" />
      <line x1={LEFT} x2={LEFT} y1={3} y2={py(0)} className="stroke-edge" />
      <text x={LEFT - 4} y={11} textAnchor="end" className="fill-soft text-[10px]">
        {percent}
      </text>
      <text x={LEFT} y={HEIGHT - 2} className="fill-soft text-[10px]">
        {engineering(first, unit, 2)}
      </text>
      <text
        x={(LEFT + WIDTH) / 2}
        y={HEIGHT - 2}
        textAnchor="middle"
        className="fill-soft text-[10px] italic"
      >
        {of}
      </text>
      <text x={WIDTH - 2} y={HEIGHT - 2} textAnchor="end" className="fill-soft text-[10px]">
        {engineering(last, unit, 2)}
      </text>
      <path d={path.join("")} fill="none" strokeWidth={1.5} className="stroke-doubt" />
    </svg>
  );
}
