// Where the lines of a plane's grid lie.

/** Round steps across a span: 1, 2 or 5 times a power of ten. */
export function ticksOf(low: number, high: number, most = 6): number[] {
  const rough = (high - low) / most;
  if (!(rough > 0)) return [];
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((factor) => factor * power >= rough) ?? 10);
  const first = Math.ceil(low / step - 1e-9);
  const count = Math.floor(high / step + 1e-9) - first + 1;
  return Array.from({ length: count }, (_, k) => (first + k) * step);
}
