// A number on a slider: a decade around where it was taken up, or the range it may have.
import { useRef } from "react";
import type { Parameter } from "../../api/types";
import { scaleFor } from "../../ui/engineering";

const DIGITS = 3;
const STEPS = 200;
/** A number as it is typed, with the prefix that suits it. */
export function written(number: number, unit: string): string {
  if (unit === "%") return `${Number((100 * number).toPrecision(DIGITS))} %`;
  const size = Math.abs(number);
  if (!unit || size === 0 || size < 1e-13) return String(Number(number.toPrecision(DIGITS)));
  if (!/^[VAΩSWFHsJC]$|^Hz$/.test(unit)) return String(Number(number.toPrecision(DIGITS)));
  const { factor, prefix } = scaleFor(size, DIGITS);
  return `${Number((number / factor).toPrecision(DIGITS))} ${prefix}${unit}`;
}

export const isBare = (text: string) => /^[-+\d.e]+$/i.test(text.trim());
export const plainSpaces = (text: string) => text.replace(/\u00a0/g, " ").replace("\u2212", "-");

function clamped(number: number, { minimum, maximum }: Parameter): number {
  return Math.min(
    Math.max(number, minimum ?? Number.NEGATIVE_INFINITY),
    maximum ?? Number.POSITIVE_INFINITY,
  );
}

/** One step up or down: a twentieth of the number, with Shift a fifth. */
export function nudged(number: number, way: 1 | -1, large: boolean, parameter: Parameter): number {
  if (parameter.unit === "%") return clamped(number + way * (large ? 0.1 : 0.01), parameter);
  const scale = 10 ** Math.floor(Math.log10(Math.abs(number) || 1));
  return clamped(Number((number + way * scale * (large ? 1 : 0.1)).toPrecision(6)), parameter);
}

interface Props {
  parameter: Parameter;
  number: number;
  echo: string;
  onChange(number: number): void;
}

export function Slider({ parameter, number, echo, onChange }: Props) {
  // The range stays where it was when the slider was taken up, so that it does not run away.
  const around = useRef(number);
  const isShare = parameter.unit === "%";
  const logarithmic = !isShare && number > 0 && around.current > 0;
  const top = Math.abs(around.current) || 1;
  const [low, high] = isShare
    ? [parameter.minimum ?? 0, parameter.maximum ?? 1]
    : logarithmic
      ? [Math.log10(around.current / 10), Math.log10(around.current * 10)]
      : [parameter.minimum === 0 ? 0 : -2 * top, 2 * top];
  const at = logarithmic ? Math.log10(number) : number;
  return (
    <input
      type="range"
      tabIndex={-1} // the arrows turn the number in its field
      aria-label={`${parameter.label}, slider`}
      aria-valuetext={echo}
      min={low}
      max={high}
      step={(high - low) / STEPS}
      value={Math.min(Math.max(at, low), high)}
      onPointerUp={() => {
        around.current = number;
      }}
      onChange={(event) => {
        const to = Number(event.target.value);
        onChange(clamped(logarithmic ? 10 ** to : to, parameter));
      }}
      className="mt-1.5 block h-4 w-full accent-[var(--accent)]"
    />
  );
}
