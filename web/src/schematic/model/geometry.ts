// Points, pins and boxes on the sheet, in grid units, x to the right and y down.
import type { Kind, Part, Point, Schematic } from "../../api/types";

/** Every kind that may stand on the sheet, by `kindKey`. */
export type Catalogue = Map<string, Kind>;

type OfKind = Pick<Part, "kind" | "block">;

export const kindKey = ({ kind, block }: OfKind) => (kind === "block" ? `block ${block}` : kind);
export const kindOf = (part: OfKind, catalogue: Catalogue) => catalogue.get(kindKey(part));

export interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

const QUARTER_TURNS = { 0: [1, 0], 90: [0, 1], 180: [-1, 0], 270: [0, -1] } as const;

export const key = ([x, y]: Point) => `${x},${y}`;
export const same = (a: Point, b: Point) => a[0] === b[0] && a[1] === b[1];
export const shifted = (p: Point, [dx, dy]: Point): Point => [p[0] + dx, p[1] + dy];

/** Mirrored, turned clockwise, placed: the same order as the server's. */
export function placed(
  part: Pick<Part, "at" | "rotation" | "mirror">,
  x: number,
  y: number,
): Point {
  const [cosine, sine] = QUARTER_TURNS[part.rotation];
  const mx = part.mirror ? -x : x;
  return [part.at[0] + cosine * mx - sine * y, part.at[1] + sine * mx + cosine * y];
}

export interface PlacedPin {
  part: Part;
  index: number;
  at: Point;
  /** Unit step away from the body. */
  outward: Point;
}

interface Known<T> {
  catalogue: Catalogue;
  value: T;
}

/** A part is never changed but replaced, so that what was worked out for it once holds. */
function once<T>(work: (part: Part, catalogue: Catalogue) => T) {
  const known = new WeakMap<Part, Known<T>>();
  return (part: Part, catalogue: Catalogue): T => {
    const before = known.get(part);
    if (before?.catalogue === catalogue) return before.value;
    const value = work(part, catalogue);
    known.set(part, { catalogue, value });
    return value;
  };
}

export const pinsOf = once((part, catalogue): PlacedPin[] => {
  const kind = kindOf(part, catalogue);
  if (!kind) return [];
  const [left, top, right, bottom] = kind.body;
  return kind.pins.map((pin, index) => {
    const beyondX = Math.max(left - pin.x, pin.x - right);
    const beyondY = Math.max(top - pin.y, pin.y - bottom);
    const step: Point = beyondX >= beyondY ? [pin.x < left ? -1 : 1, 0] : [0, pin.y < top ? -1 : 1];
    const away = placed({ ...part, at: [0, 0] }, step[0], step[1]);
    return { part, index, at: placed(part, pin.x, pin.y), outward: away };
  });
});

export const allPins = (schematic: Schematic, catalogue: Catalogue): PlacedPin[] =>
  schematic.parts.flatMap((part) => pinsOf(part, catalogue));

export const bodyOf = once((part, catalogue): Box => bodyAs(part, kindOf(part, catalogue)));

/** What a part of this kind covers where it stands. */
export function bodyAs(part: Part, kind: Kind | undefined): Box {
  const [l, t, r, b] = kind?.body ?? [-2, -2, 2, 2];
  const [x1, y1] = placed(part, l, t);
  const [x2, y2] = placed(part, r, b);
  return {
    left: Math.min(x1, x2),
    top: Math.min(y1, y2),
    right: Math.max(x1, x2),
    bottom: Math.max(y1, y2),
  };
}

export const grown = (box: Box, by: number): Box => ({
  left: box.left - by,
  top: box.top - by,
  right: box.right + by,
  bottom: box.bottom + by,
});

export const overlap = (a: Box, b: Box): boolean =>
  a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;

export const sameSides = (a: Box | undefined, b: Box): boolean =>
  a !== undefined &&
  a.left === b.left &&
  a.top === b.top &&
  a.right === b.right &&
  a.bottom === b.bottom;

export const spanned = (a: Point, b: Point): Box => ({
  left: Math.min(a[0], b[0]),
  top: Math.min(a[1], b[1]),
  right: Math.max(a[0], b[0]),
  bottom: Math.max(a[1], b[1]),
});

export const joined = (a: Box, b: Box): Box => ({
  left: Math.min(a.left, b.left),
  top: Math.min(a.top, b.top),
  right: Math.max(a.right, b.right),
  bottom: Math.max(a.bottom, b.bottom),
});

export function onSegment([x, y]: Point, [x1, y1]: Point, [x2, y2]: Point): boolean {
  if ((x2 - x1) * (y - y1) !== (y2 - y1) * (x - x1)) return false;
  return (
    Math.min(x1, x2) <= x && x <= Math.max(x1, x2) && Math.min(y1, y2) <= y && y <= Math.max(y1, y2)
  );
}

export function segmentsOf(points: Point[]): [Point, Point][] {
  return points.slice(1).map((end, i) => [points[i] as Point, end]);
}

export const onWire = (point: Point, points: Point[]): boolean =>
  segmentsOf(points).some(([a, b]) => onSegment(point, a, b));

/** The point of a wire nearest to `point`, on the grid. */
export function nearestOn(point: Point, points: Point[]): Point {
  let best = points[0] as Point;
  let distance = Number.POSITIVE_INFINITY;
  for (const [a, b] of segmentsOf(points)) {
    const box = spanned(a, b);
    const candidate: Point = [
      Math.min(Math.max(point[0], box.left), box.right),
      Math.min(Math.max(point[1], box.top), box.bottom),
    ];
    const gap = Math.abs(candidate[0] - point[0]) + Math.abs(candidate[1] - point[1]);
    if (gap < distance) [best, distance] = [candidate, gap];
  }
  return best;
}

/** Everything drawn, pins and names included; null for an empty sheet. */
export function extent(schematic: Schematic, catalogue: Catalogue): Box | null {
  const boxes = [
    ...schematic.parts.flatMap((part) => [
      bodyOf(part, catalogue),
      ...pinsOf(part, catalogue).map((pin) => spanned(pin.at, pin.at)),
    ]),
    ...schematic.wires.flatMap((wire) => wire.points.map((p) => spanned(p, p))),
    ...schematic.labels.map((label) => spanned(label.at, label.at)),
    ...schematic.notes.map((note) => spanned(note.at, shifted(note.at, [12, 3]))),
  ];
  return boxes.length ? boxes.reduce(joined) : null;
}
