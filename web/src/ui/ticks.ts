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

/** 1 to 9 times the powers of ten in view; within less than a third of a decade, round steps. */
export function logTicks(low: number, high: number): number[] {
  const found: number[] = [];
  for (let k = Math.floor(Math.log10(low)); 10 ** k <= high; k++)
    for (let digit = 1; digit < 10; digit++) {
      const tick = digit * 10 ** k;
      if (tick >= low * (1 - 1e-9) && tick <= high * (1 + 1e-9)) found.push(tick);
    }
  return found.length > 2 ? found : ticksOf(low, high, 5);
}
