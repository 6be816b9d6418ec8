// Where a marker jumps to: the next place of a kind to the right of it, and from the last to the first.

export type Jump = "crossing" | "peak" | "trough" | "halfPower" | "unity";

export const JUMPS: { kind: Jump; text: string; meaning: string }[] = [
  { kind: "peak", text: "Peak", meaning: "the next peak" },
  { kind: "trough", text: "Trough", meaning: "the next trough" },
  { kind: "crossing", text: "Crossing", meaning: "where it next passes through zero" },
  { kind: "halfPower", text: "−3 dB", meaning: "where it is next 3 dB below its largest" },
  { kind: "unity", text: "Unity", meaning: "where its size is next one" },
];

/** The place after `from`, in order of `y`; null where there is none. */
export function nextPlace(kind: Jump, y: (number | null)[], from: number): number | null {
  const size = Math.max(...y.map((v) => Math.abs(v ?? 0)));
  const found =
    kind === "peak" || kind === "trough"
      ? turns(y, kind === "peak" ? 1 : -1)
      : passes(
          kind === "crossing" ? y : y.map((v) => (v === null ? null : Math.abs(v))),
          kind === "crossing" ? 0 : kind === "unity" ? 1 : size * Math.SQRT1_2,
        );
  return found.find((place) => place > from) ?? found[0] ?? null;
}

/** Highest places where `sign` is 1, lowest where it is -1; of a level stretch its beginning. */
function turns(y: (number | null)[], sign: 1 | -1): number[] {
  const found: number[] = [];
  let rising = false;
  let since = 0;
  for (let k = 1; k < y.length; k++) {
    const [before, here] = [y[k - 1], y[k]];
    if (before == null || here == null) continue;
    const step = sign * (here - before);
    if (step > 0) {
      rising = true;
      since = k;
    } else if (step < 0) {
      if (rising) found.push(since);
      rising = false;
    }
  }
  return found;
}

/** Where the values pass through a level, at the nearer of the two samples. */
function passes(y: (number | null)[], level: number): number[] {
  const found: number[] = [];
  for (let k = 1; k < y.length; k++) {
    const [before, here] = [y[k - 1], y[k]];
    if (before == null || here == null) continue;
    const [a, b] = [before - level, here - level];
    if (a === 0 ? k === 1 : a * b < 0 || b === 0) found.push(Math.abs(a) < Math.abs(b) ? k - 1 : k);
  }
  return found;
}
