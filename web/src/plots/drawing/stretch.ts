// The stretch of the axis that is looked at: enlarged about a place, or moved along.

export type Stretch = [from: number, to: number];

interface Axis {
  isLog: boolean;
  /** The ends of the data: nothing lies beyond. */
  ends: Stretch;
}

/** `factor` below one looks closer, about a place that keeps its share of the width. */
export function enlarged([from, to]: Stretch, factor: number, about: number, axis: Axis): Stretch {
  const [a, b, middle] = [from, to, about].map((v) => onto(v, axis)) as [number, number, number];
  return within(middle - (middle - a) * factor, middle + (b - middle) * factor, axis);
}

/** Moved along by a share of its own width; at the ends of the data it stays as wide as it is. */
export function moved([from, to]: Stretch, share: number, axis: Axis): Stretch {
  const [a, b] = [onto(from, axis), onto(to, axis)];
  const [low, high] = axis.ends.map((v) => onto(v, axis)) as Stretch;
  const by = Math.min(Math.max(share * (b - a), low - a), high - b);
  return within(a + by, b + by, axis);
}

const onto = (v: number, { isLog }: Axis) => (isLog ? Math.log10(v) : v);

function within(a: number, b: number, axis: Axis): Stretch {
  const back = (v: number) => (axis.isLog ? 10 ** v : v);
  return [Math.max(back(a), axis.ends[0]), Math.min(back(b), axis.ends[1])];
}
