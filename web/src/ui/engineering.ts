// Numbers as they stand on axes and beside markers. The server writes all other figures.
const PREFIXES = ["f", "p", "n", "µ", "m", "", "k", "M", "G", "T"];
const NONE = 5;
const PLAIN = ["", "°", "dB", "%", "°C", "K"]; // units without a prefix

/** How numbers up to `size`, rounded to `digits`, are written: divided by `factor`, with `prefix`. */
export function scaleFor(size: number, digits = 4): { factor: number; prefix: string } {
  if (!size || !Number.isFinite(size)) return { factor: 1, prefix: "" };
  const rounded = Number(size.toPrecision(digits));
  const place = Math.floor(Math.log10(rounded) / 3 + 1e-9) + NONE;
  const kept = Math.min(Math.max(place, 0), PREFIXES.length - 1);
  return { factor: 10 ** ((kept - NONE) * 3), prefix: PREFIXES[kept] as string };
}

/** A number as typed, with a prefix and perhaps its unit; null where it is none. */
export function typed(text: string): number | null {
  const read = /^\s*([-+−]?\d*[.,]?\d+(?:e[-+]?\d+)?)\s*([fpnuµmkMGT]?)\s*[^\d\s]*\s*$/.exec(text);
  if (!read) return null;
  const place = PREFIXES.indexOf((read[2] ?? "").replace("u", "µ"));
  return Number((read[1] ?? "").replace("−", "-").replace(",", ".")) * 10 ** (3 * (place - NONE));
}

/** A number with its unit: 4.7 kΩ. */
export function engineering(value: number, unit: string, digits = 4): string {
  const takesPrefix = !PLAIN.includes(unit);
  const { factor, prefix } = takesPrefix
    ? scaleFor(Math.abs(value), digits)
    : { factor: 1, prefix: "" };
  const number = Number((value / factor).toPrecision(digits))
    .toString()
    .replace("-", "−");
  return unit ? `${number}\u00a0${prefix}${unit}` : number;
}
