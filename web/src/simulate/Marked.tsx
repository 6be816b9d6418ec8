// What stands at the markers and between them, to be read, copied and taken into the ledger.
import { BookmarkPlus, Copy, X } from "lucide-react";
import type { RunLook } from "../api/types";
import { IconButton } from "../ui/Button";
import { engineering } from "../ui/engineering";
import { Named } from "../ui/Named";
import { Pill } from "../ui/Pill";
import { say } from "../ui/Toasts";
import { JUMPS, type Jump } from "./plot/jumps";
import type { Pane } from "./plot/panes";
import type { Takeable } from "./taking";

interface Props {
  look: RunLook;
  panes: Pane[];
  marks: number[];
  onClear(): void;
  onJump(kind: Jump): void;
  onTake(figure: Takeable): void;
  /** Words to stand at the last marker. */
  onNote(text: string): void;
}

interface Line {
  name: string;
  unit: string;
  values: (number | null)[];
  /** Of the difference only: what else it says. */
  more: { text: string; figure: Takeable }[];
}

export function Marked({ look, panes, marks, onClear, onJump, onTake, onNote }: Props) {
  const [a, b] = marks;
  if (a === undefined)
    return (
      <p className="mt-1 text-xs text-soft">
        Press on a plot to set a marker; sweep to look closer, press twice to see all again; Shift
        and the wheel move along.
      </p>
    );
  const lines = linesOf(look, panes, a, b);
  const heads = b === undefined ? ["A"] : ["A", "B", "B − A"];
  const copy = () => {
    const rows = lines.map((line) =>
      [line.name, ...line.values.map((v) => (v == null ? "" : `${v}`)), line.unit].join("\t"),
    );
    const text = [["", ...heads, "unit"].join("\t"), ...rows].join("\n");
    navigator.clipboard.writeText(text).then(
      () => say("The readout is copied."),
      () => say("The browser does not let the page copy."),
    );
  };
  return (
    <div className="mt-2">
      <div className="flex flex-wrap items-center gap-1.5 text-xs text-soft">
        <span>Marker {b === undefined ? "A" : "B"} to</span>
        {JUMPS.map(({ kind, text, meaning }) => (
          <Pill key={kind} onClick={() => onJump(kind)} title={meaning} className="px-2!">
            {text}
          </Pill>
        ))}
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
          className="min-w-16 grow rounded-md border border-edge bg-paper px-2 py-0.5 text-ink"
        />
        <IconButton label="Copy the readout" onClick={copy} className="size-7!">
          <Copy size={14} />
        </IconButton>
        <IconButton label="Clear the markers" onClick={onClear} className="size-7!">
          <X size={14} />
        </IconButton>
      </div>
      <table aria-label="Markers" className="figure mt-1 w-full text-right text-sm">
        <thead className="text-soft">
          <tr>
            <td />
            {heads.map((head) => (
              <th key={head} className="font-medium">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.name}>
              <th className="text-left font-serif font-normal italic">
                <Named text={line.name} />
              </th>
              {line.values.map((value, k) => (
                <td key={heads[k]} className="align-top">
                  {value == null ? (
                    ""
                  ) : (
                    <button
                      type="button"
                      title="Into the ledger"
                      onClick={() =>
                        onTake(
                          atMarker(
                            `${line.unit === "s" ? "t" : line.unit === "Hz" ? "f" : "x"}_${"ABD"[k]}`,
                            `${line.name} at ${heads[k]}`.replace("at B − A", "from A to B"),
                            value,
                            line.unit,
                          ),
                        )
                      }
                      className="min-h-6 min-w-6 decoration-dotted underline-offset-3 hover:underline"
                    >
                      {engineering(value, line.unit, line.name === look.axis ? 5 : 4)}
                    </button>
                  )}
                  {k === 2 &&
                    line.more.map(({ text, figure }) => (
                      <button
                        key={figure.label}
                        type="button"
                        title={`${figure.label}: into the ledger`}
                        onClick={() => onTake(figure)}
                        className="ml-2 min-h-6 min-w-6 text-soft decoration-dotted underline-offset-3 hover:underline"
                      >
                        {text}
                      </button>
                    ))}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A row for the axis, then one for each curve. */
export function linesOf(look: RunLook, panes: Pane[], a: number, b?: number): Line[] {
  const at = (place: number) => look.x[place] as number;
  const between = (first: number | null, second: number | null) =>
    first === null || second === null ? null : second - first;
  const own: Line = {
    name: look.axis,
    unit: look.axis_unit,
    values: b === undefined ? [at(a)] : [at(a), at(b), at(b) - at(a)],
    more: [],
  };
  const apart = b === undefined ? 0 : at(b) - at(a);
  const inverse = { s: "Hz", Hz: "s" }[look.axis_unit];
  const tell = (symbol: string, label: string, value: number, unit: string, before = "") =>
    own.more.push({
      text: `${before}${engineering(value, unit)}`,
      figure: atMarker(symbol, label, value, unit),
    });
  if (apart && inverse)
    tell(inverse === "Hz" ? "f" : "T", "one over A to B", 1 / Math.abs(apart), inverse, "1/ = ");
  if (apart && look.period)
    tell("phi", "A to B in the source’s period", (360 * apart) / look.period, "°");
  const lines = panes.flatMap((pane) =>
    pane.traces.map((trace): Line => {
      const name =
        pane.title && pane.key !== "dB"
          ? `${pane.title.toLowerCase()} of ${trace.name}`
          : trace.name;
      const first = trace.y[a] ?? null;
      if (b === undefined) return { name, unit: pane.unit, values: [first], more: [] };
      const second = trace.y[b] ?? null;
      const line: Line = {
        name,
        unit: pane.unit,
        values: [first, second, between(first, second)],
        more: [],
      };
      const step = line.values[2];
      if (step != null && apart && look.is_log) {
        const decades = Math.log10(at(b) / at(a));
        line.more.push({
          text: `${engineering(step / decades, pane.unit)} a decade`,
          figure: atMarker("s", `slope of ${name}, a decade`, step / decades, pane.unit),
        });
      }
      return line;
    }),
  );
  return [own, ...lines];
}

/** A figure by the words it is told in: where the markers stand is not kept. */
const atMarker = (symbol: string, label: string, value: number, unit: string): Takeable => ({
  symbol,
  label,
  value,
  unit,
  of: { quantity: label, reading: "cell", member: "" },
});

/** The button beside a figure that puts it into the ledger. */
export function TakeButton({ label, onTake }: { label: string; onTake(): void }) {
  return (
    <button
      type="button"
      aria-label={`${label}, into the ledger`}
      title="Into the ledger"
      onClick={onTake}
      className="grid size-6 place-items-center rounded text-soft hover:bg-ruling hover:text-ink"
    >
      <BookmarkPlus size={13} />
    </button>
  );
}
