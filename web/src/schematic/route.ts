// Finding a way for a wire: right-angled, leaving pins outward, clear of parts, pins and other wires.
import type { Point, Schematic } from "../api/types";
import {
  allPins,
  type Box,
  bodyOf,
  type Catalogue,
  grown,
  key,
  onSegment,
  overlap,
  same,
  segmentsOf,
  spanned,
} from "./geometry";

// What a way is charged for. Joining something by accident is worst, ugliness is cheap.
const COST = { contact: 1000, body: 300, along: 150, against: 40, bend: 4, crossing: 3, length: 1 };
const STUB = 2; // grid units a wire goes straight out of a pin where it must turn

export interface Surroundings {
  bodies: Box[];
  /** Points that would be joined if a wire ran over them. */
  contacts: Point[];
  wires: [Point, Point][];
  outward: Map<string, Point>;
}

export function surroundings(
  schematic: Schematic,
  catalogue: Catalogue,
  except: Set<string> = new Set(),
): Surroundings {
  const wires = schematic.wires.filter((wire) => !except.has(wire.id));
  const pins = allPins(schematic, catalogue);
  return {
    bodies: schematic.parts.map((part) => grown(bodyOf(part, catalogue), 0.3)),
    contacts: [
      ...pins.map((pin) => pin.at),
      ...wires.flatMap((wire) => [wire.points[0] as Point, wire.points.at(-1) as Point]),
    ],
    wires: wires.flatMap((wire) => segmentsOf(wire.points)),
    outward: new Map(pins.map((pin) => [key(pin.at), pin.outward])),
  };
}

/** The same with one more wire laid. */
export function withWire(around: Surroundings, points: Point[]): Surroundings {
  return {
    ...around,
    contacts: [...around.contacts, points[0] as Point, points.at(-1) as Point],
    wires: [...around.wires, ...segmentsOf(points)],
  };
}

export function route(from: Point, to: Point, everything: Surroundings): Point[] {
  const around = near(spanned(from, to), everything);
  let best: Point[] = [from, to];
  let least = Number.POSITIVE_INFINITY;
  for (const way of candidates(from, to, around)) {
    const cost = costOf(way, around, least);
    if (cost < least) [best, least] = [way, cost];
  }
  return best;
}

const REACH = 12; // grid units beyond both ends within which a way may lead

/** What lies where ways between two ends can lead. */
function near(ends: Box, { bodies, contacts, wires, outward }: Surroundings): Surroundings {
  const reach = grown(ends, REACH);
  const at = (point: Point) => overlap(grown(spanned(point, point), 0.1), reach);
  return {
    bodies: bodies.filter((body) => overlap(body, reach)),
    contacts: contacts.filter(at),
    wires: wires.filter(([a, b]) => overlap(grown(spanned(a, b), 0.1), reach)),
    outward,
  };
}

/** Consecutive equal points and points in the middle of a straight run taken out. */
export function simplified(points: Point[]): Point[] {
  const kept: Point[] = [];
  for (const point of points) {
    const last = kept.at(-1);
    if (last && same(last, point)) continue;
    const before = kept.at(-2);
    if (before && last && isStraight(before, last, point)) kept.pop();
    kept.push(point);
  }
  return kept;
}

const isStraight = (a: Point, b: Point, c: Point) =>
  (a[0] === b[0] && b[0] === c[0]) || (a[1] === b[1] && b[1] === c[1]);

function* candidates(from: Point, to: Point, around: Surroundings): Generator<Point[]> {
  yield* plain(from, to);
  const starts = [from, stub(from, around)];
  const ends = [to, stub(to, around)];
  for (const start of starts)
    for (const end of ends)
      if (!same(start, from) || !same(end, to))
        for (const middle of plain(start, end)) yield simplified([from, ...middle, to]);
}

function stub(point: Point, around: Surroundings): Point {
  const out = around.outward.get(key(point));
  return out ? [point[0] + STUB * out[0], point[1] + STUB * out[1]] : point;
}

/** Ways of up to two bends, also round the outside. */
function* plain(from: Point, to: Point): Generator<Point[]> {
  const [x1, y1] = from;
  const [x2, y2] = to;
  yield simplified([from, [x2, y1], to]);
  yield simplified([from, [x1, y2], to]);
  for (const x of lanes(x1, x2)) yield simplified([from, [x, y1], [x, y2], to]);
  for (const y of lanes(y1, y2)) yield simplified([from, [x1, y], [x2, y], to]);
}

function lanes(a: number, b: number): number[] {
  const low = Math.min(a, b);
  const high = Math.max(a, b);
  const middle = Math.round((a + b) / 2);
  return [middle, a + 2, a - 2, b + 2, b - 2, low - 4, high + 4, low - 7, high + 7];
}

/** What a way is charged; given up, and infinite, once it is no better than `limit`. */
export function costOf(
  way: Point[],
  around: Surroundings,
  limit = Number.POSITIVE_INFINITY,
): number {
  const segments = segmentsOf(way);
  const first = way[0] as Point;
  const last = way.at(-1) as Point;
  let cost = COST.bend * (way.length - 2);
  for (const [a, b] of segments) {
    if (a[0] !== b[0] && a[1] !== b[1]) return Number.POSITIVE_INFINITY;
    cost += COST.length * (Math.abs(a[0] - b[0]) + Math.abs(a[1] - b[1]));
  }
  cost += leaving(first, way[1] as Point, around) + leaving(last, way.at(-2) as Point, around);
  for (const [a, b] of segments) {
    if (cost >= limit) return Number.POSITIVE_INFINITY;
    const span = grown(spanned(a, b), 0.01);
    for (const body of around.bodies) if (overlap(body, span)) cost += COST.body;
    for (const point of around.contacts)
      if (onSegment(point, a, b) && !same(point, first) && !same(point, last)) cost += COST.contact;
    for (const [c, d] of around.wires) cost += meeting(a, b, c, d);
  }
  return cost;
}

function leaving(end: Point, next: Point, around: Surroundings): number {
  const out = around.outward.get(key(end));
  if (!out) return 0;
  const along = (next[0] - end[0]) * out[0] + (next[1] - end[1]) * out[1];
  return along < 0 ? COST.against : 0;
}

function meeting(a: Point, b: Point, c: Point, d: Point): number {
  const vertical = a[0] === b[0];
  const otherVertical = c[0] === d[0];
  const one = spanned(a, b);
  const other = spanned(c, d);
  if (vertical !== otherVertical) {
    const crosses =
      one.left <= other.right &&
      other.left <= one.right &&
      one.top <= other.bottom &&
      other.top <= one.bottom;
    return crosses ? COST.crossing : 0;
  }
  const sameLane = vertical ? a[0] === c[0] : a[1] === c[1];
  if (!sameLane) return 0;
  const shared = vertical
    ? Math.min(one.bottom, other.bottom) - Math.max(one.top, other.top)
    : Math.min(one.right, other.right) - Math.max(one.left, other.left);
  return shared > 0 ? COST.along : 0;
}
