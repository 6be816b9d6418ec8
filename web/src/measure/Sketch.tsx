// The curves of a table's columns, small: whether it was read as it is meant is seen at a look.
import type { Column } from "../api/types";
import { engineering } from "../ui/engineering";
import { Named } from "../ui/Named";

const [WIDTH, HEIGHT] = [280, 130];
const MOST = 800; // points drawn

export function Sketch({ columns: [first, ...others] }: { columns: Column[] }) {
  if (!first || first.values.length < 2) return null;
  const isLog = first.quantity === "f" && Math.min(...first.values) > 0;
  const bent = (v: number) => (isLog ? Math.log10(v) : v);
  const stride = Math.max(1, Math.floor(first.values.length / MOST));
  const shown = first.values.map((_, k) => k).filter((k) => k % stride === 0);
  const [low, high] = ends(shown.map((k) => bent(first.values[k] as number)));
  return (
    <div className="space-y-2">
      {others.slice(0, 3).map((column) => {
        const [bottom, top] = ends(shown.map((k) => column.values[k] as number));
        const way = shown.map((k, n) => {
          const x = ((bent(first.values[k] as number) - low) / (high - low || 1)) * WIDTH;
          const y = (1 - ((column.values[k] as number) - bottom) / (top - bottom || 1)) * HEIGHT;
          return `${n ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
        });
        return (
          <figure key={column.quantity} className="m-0 text-xs text-soft">
            <figcaption className="flex justify-between">
              <span className="font-serif italic">
                <Named text={column.quantity} />
              </span>
              <span className="figure">
                {engineering(bottom, column.unit, 3)} … {engineering(top, column.unit, 3)}
              </span>
            </figcaption>
            <svg
              role="img"
              aria-label={`Curve of ${column.quantity}`}
              viewBox={`-2 -2 ${WIDTH + 4} ${HEIGHT + 4}`}
              className="mt-0.5 w-full rounded border border-hairline bg-paper"
            >
              <path d={way.join("")} fill="none" stroke="var(--bench)" strokeWidth={1.4} />
            </svg>
            <p className="figure flex justify-between">
              <span>{engineering(first.values[0] as number, first.unit, 3)}</span>
              <span>{engineering(first.values.at(-1) as number, first.unit, 3)}</span>
            </p>
          </figure>
        );
      })}
    </div>
  );
}

function ends(values: number[]): [number, number] {
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const value of values) {
    low = Math.min(low, value);
    high = Math.max(high, value);
  }
  return [low, high];
}
