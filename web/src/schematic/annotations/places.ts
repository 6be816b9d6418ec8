// Where a text may stand, best first: around a part, beside a point, at the end of a wire, along a node.
import type { Evaluation, Part, Point, Schematic } from "../../api/types";
import {
  type Box,
  type Catalogue,
  onWire,
  pinsOf,
  same,
  segmentsOf,
  spanned,
} from "../model/geometry";
import { GAP, type Place } from "./notes";

/** Places around a box: beside it for upright parts first, above and below for lying ones first. */
export function* around(box: Box, upright: boolean, steps = 3): Generator<Place> {
  const middle: Point = [(box.left + box.right) / 2, (box.top + box.bottom) / 2];
  for (let step = 0; step < steps; step++) {
    const gap = GAP + 1.2 * step;
    for (const shift of [0, -1.6, 1.6, -3.2, 3.2]) {
      const far = step > 1 || (step > 0 && Math.abs(shift) > 2);
      const leader = far ? { leader: box } : {};
      const beside: Place[] = [
        { at: [box.right + gap, middle[1] + shift], hold: "left", ...leader },
        { at: [box.left - gap, middle[1] + shift], hold: "right", ...leader },
      ];
      const over: Place[] = [
        { at: [middle[0] + shift, box.top - gap + 0.2], hold: "above", ...leader },
        { at: [middle[0] + shift, box.bottom + gap - 0.2], hold: "below", ...leader },
      ];
      yield* upright ? [...beside, ...(shift ? [] : over)] : [...over, ...(shift ? [] : beside)];
    }
  }
}

export function* besidePoint(point: Point): Generator<Place> {
  yield* closeTo(point);
  for (const reach of REACHES) yield* apartFrom(point, reach);
}

const REACHES = [2.4, 4, 6, 9, 12]; // grid units from a point to a text that a line leads to

function* closeTo([x, y]: Point): Generator<Place> {
  const beside: Point = [x, y];
  yield { at: [x, y - GAP], hold: "above", beside };
  yield { at: [x + GAP, y - 1.1], hold: "left", beside };
  yield { at: [x - GAP, y - 1.1], hold: "right", beside };
  yield { at: [x + GAP + 0.2, y], hold: "left", beside };
  yield { at: [x - GAP - 0.2, y], hold: "right", beside };
  yield { at: [x, y + GAP], hold: "below", beside };
  yield { at: [x + GAP, y + 1.1], hold: "left", beside };
  yield { at: [x - GAP, y + 1.1], hold: "right", beside };
}

function* apartFrom([x, y]: Point, reach: number): Generator<Place> {
  const beside: Point = [x, y];
  const leader = spanned([x, y], [x, y]);
  yield { at: [x + reach / 2, y - reach], hold: "left", leader, beside };
  yield { at: [x - reach / 2, y - reach], hold: "right", leader, beside };
  yield { at: [x + reach / 2, y + reach], hold: "left", leader, beside };
  yield { at: [x - reach / 2, y + reach], hold: "right", leader, beside };
}

/** A name at the loose end of a wire continues the wire. */
export function* endPlaces(schematic: Schematic, at: Point): Generator<Place> {
  for (const wire of schematic.wires) {
    const isFirst = same(wire.points[0] as Point, at);
    if (!isFirst && !same(wire.points.at(-1) as Point, at)) continue;
    const points = isFirst ? wire.points : [...wire.points].reverse();
    const dx = Math.sign(at[0] - (points[1] as Point)[0]);
    const dy = Math.sign(at[1] - (points[1] as Point)[1]);
    if (dx > 0) yield { at: [at[0] + GAP, at[1]], hold: "left" };
    if (dx < 0) yield { at: [at[0] - GAP, at[1]], hold: "right" };
    if (dy > 0) yield { at: [at[0], at[1] + GAP], hold: "below" };
    if (dy < 0) yield { at: [at[0], at[1] - GAP], hold: "above" };
  }
  yield* besidePoint(at);
}

type Net = Evaluation["nets"][number];

/** Where the nodes of a drawing are. */
export class NetPlaces {
  private readonly wires: Map<string, Point[]>;
  private readonly parts: Map<string, Part>;

  constructor(
    { wires, parts }: Schematic,
    private readonly catalogue: Catalogue,
  ) {
    this.wires = new Map(wires.map((wire) => [wire.id, wire.points]));
    this.parts = new Map(parts.map((part) => [part.id, part]));
  }

  /** Places beside the wires of a node, then beside its pins; farther off only where none is free. */
  *beside(net: Net): Generator<Place> {
    const middles = net.wires.flatMap((id) =>
      segmentsOf(this.wires.get(id) ?? []).map(
        ([a, b]): Point => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2],
      ),
    );
    const points = [...middles, ...this.pinsOf(net)];
    for (const point of points) yield* closeTo(point);
    for (const reach of REACHES) for (const point of points) yield* apartFrom(point, reach);
  }

  /** Whether a place is beside the node still. */
  has(net: Net, { beside }: Place): boolean {
    if (!beside) return false;
    return (
      net.wires.some((id) => onWire(beside, this.wires.get(id) ?? [])) ||
      this.pinsOf(net).some((pin) => same(pin, beside))
    );
  }

  private pinsOf(net: Net): Point[] {
    return net.pins.flatMap(([id, index]) => {
      const part = this.parts.get(id);
      const pin = part && pinsOf(part, this.catalogue)[index];
      return pin ? [pin.at] : [];
    });
  }
}
