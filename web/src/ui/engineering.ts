// Numbers as they stand on axes and beside markers. The server writes all other figures.
const PREFIXES = ["f", "p", "n", "µ", "m", "", "k", "M", "G", "T"];
const NONE = 5;

/** How large numbers up to `size` are written: divided by `factor`, with `prefix` before the unit. */
export function scaleFor(size: number): { factor: number; prefix: string } {
  if (!size || !Number.isFinite(size)) return { factor: 1, prefix: "" };
  const third = Math.floor(Math.log10(size * 1.0000001) / 3);
  const place = Math.min(Math.max(third + NONE, 0), PREFIXES.length - 1);
  return { factor: 10 ** ((place - NONE) * 3), prefix: PREFIXES[place] as string };
}

/** A number with its unit: 4.7 kΩ. */
export function engineering(value: number, unit: string, digits = 4): string {
  const takesPrefix = unit !== "" && unit !== "°" && unit !== "dB";
  const { factor, prefix } = takesPrefix ? scaleFor(Math.abs(value)) : { factor: 1, prefix: "" };
  const number = Number((value / factor).toPrecision(digits))
    .toString()
    .replace("-", "−");
  return unit ? `${number}\u00a0${prefix}${unit}` : number;
}
