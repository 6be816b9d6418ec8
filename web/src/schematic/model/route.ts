// Finding a way for a wire: right-angled, leaving pins outward, clear of parts, pins and other wires.
import type { Point, Schematic } from "../../api/types";
import {
  allPins,
  type Box,
  bodyOf,
  type Catalogue,
  grown,
  key,
  type PlacedPin,
  same,
  segmentsOf,
  spanned,
} from "./geometry";
import { Lanes, Pieces, pieceOf } from "./lanes";
import { Space } from "./space";

// What a way is charged for. Joining something by accident is worst, ugliness is cheap.
const COST = { contact: 1000, body: 300, along: 150, against: 40, bend: 4, crossing: 3, length: 1 };
const STUB = 2; // grid units a wire goes straight out of a pin where it must turn

/** What a way has to keep clear of. */
export class Surroundings {
  private readonly bodies = new Space();
  /** Points that would be joined if a wire ran over them. */
  private readonly contacts = new Lanes();
  private readonly wires = new Pieces();
  private readonly outward: Map<string, Point>;

  constructor(bodies: Box[], pins: PlacedPin[]) {
    for (const body of bodies) this.bodies.add(body);
    for (const pin of pins) this.contacts.add(pin.at);
    this.outward = new Map(pins.map((pin) => [key(pin.at), pin.outward]));
  }

  /** One more wire is there. */
  lay(points: Point[]): void {
    for (const end of [points[0], points.at(-1)]) if (end) this.contacts.add(end);
    for (const [a, b] of segmentsOf(points)) this.wires.add(pieceOf(a, b));
  }

  /** The way straight out of the pin at `point`; undefined where none is there. */
  out(point: Point): Point | undefined {
    return this.outward.get(key(point));
  }

  /** What a straight piece of the way from `first` to `last` is charged for. */
  chargeOf(a: Point, b: Point, first: Point, last: Point): number {
    const piece = pieceOf(a, b);
    const met = this.contacts.on(a, b).filter((p) => !same(p, first) && !same(p, last));
    return (
      COST.body * this.bodies.count(grown(spanned(a, b), 0.01)) +
      COST.contact * met.length +
      COST.along * this.wires.along(piece) +
      COST.crossing * this.wires.across(piece)
    );
  }
}

export function surroundings(
  schematic: Schematic,
  catalogue: Catalogue,
  except: Set<string> = new Set(),
): Surroundings {
  const bodies = schematic.parts.map((part) => grown(bodyOf(part, catalogue), 0.3));
  const around = new Surroundings(bodies, allPins(schematic, catalogue));
  for (const wire of schematic.wires) if (!except.has(wire.id)) around.lay(wire.points);
  return around;
}

export function route(from: Point, to: Point, around: Surroundings): Point[] {
  let best: Point[] = [from, to];
  let least = Number.POSITIVE_INFINITY;
  for (const way of candidates(from, to, around)) {
    const cost = costOf(way, around, least);
    if (cost < least) [best, least] = [way, cost];
  }
  return best;
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
  const out = around.out(point);
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
    cost += around.chargeOf(a, b, first, last);
  }
  return cost;
}

function leaving(end: Point, next: Point, around: Surroundings): number {
  const out = around.out(end);
  if (!out) return 0;
  const along = (next[0] - end[0]) * out[0] + (next[1] - end[1]) * out[1];
  return along < 0 ? COST.against : 0;
}
