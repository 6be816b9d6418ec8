// Wires as they are kept: whole between the places where something meets, and attached to what moves.
import type { Part, Point, Schematic, Wire } from "../../api/types";
import {
  allPins,
  type Catalogue,
  key,
  nearestOn,
  onWire,
  pinsOf,
  same,
  segmentsOf,
  shifted,
} from "./geometry";
import { Lanes } from "./lanes";
import { costOf, route, type Surroundings, simplified, surroundings } from "./route";

const HOPELESS = 300; // cost above which a stretched wire is laid anew

export function freshId(prefix: string, taken: Iterable<{ id: string }>): string {
  const used = new Set([...taken].map((item) => item.id));
  for (let i = 1; ; i++) if (!used.has(`${prefix}${i}`)) return `${prefix}${i}`;
}

const endsOf = (wire: Wire): [Point, Point] => [
  wire.points[0] as Point,
  wire.points.at(-1) as Point,
];

/** Wires split where something joins them, merged where nothing does, empty and double ones gone. */
export function tidied(schematic: Schematic, catalogue: Catalogue): Schematic {
  const pins = new Set(allPins(schematic, catalogue).map((pin) => key(pin.at)));
  const junctions = new Set(schematic.junctions.map((junction) => key(junction.at)));
  const wires = merged(split(schematic, pins, junctions), new Set([...pins, ...junctions]));
  return { ...schematic, wires };
}

const tidiedOnce = new WeakMap<Schematic, { catalogue: Catalogue; tidy: Schematic }>();

/** The same, worked out once a drawing: what is moved about step by step begins from it each time. */
function tidyOf(schematic: Schematic, catalogue: Catalogue): Schematic {
  const known = tidiedOnce.get(schematic);
  if (known?.catalogue === catalogue) return known.tidy;
  const tidy = tidied(schematic, catalogue);
  tidiedOnce.set(schematic, { catalogue, tidy });
  return tidy;
}

function split(schematic: Schematic, pins: Set<string>, junctions: Set<string>): Wire[] {
  const stops = new Lanes();
  for (const text of [...pins, ...junctions]) stops.add(text.split(",").map(Number) as Point);
  for (const wire of schematic.wires) for (const end of endsOf(wire)) stops.add(end);
  const pieces: Wire[] = [];
  const seen = new Set<string>();
  const ids = new Set(schematic.wires.map((wire) => wire.id));
  let number = 1;
  const fresh = () => {
    while (ids.has(`w${number}`)) number++;
    ids.add(`w${number}`);
    return `w${number}`;
  };
  for (const wire of schematic.wires) {
    let run: Point[] = [wire.points[0] as Point];
    let first = true;
    const finish = () => {
      const points = simplified(run);
      const name = [points.map(key).join(" "), [...points].reverse().map(key).join(" ")].sort()[0];
      if (points.length > 1 && !seen.has(name as string)) {
        seen.add(name as string);
        const whole =
          points.length === wire.points.length &&
          points.every((p, i) => same(p, wire.points[i] as Point));
        pieces.push(first ? (whole ? wire : { ...wire, points }) : { id: fresh(), points });
        first = false;
      }
    };
    for (const [a, b] of segmentsOf(wire.points)) {
      const inside = stops
        .on(a, b)
        .filter((p) => !same(p, a))
        .sort((p, q) => distance(a, p) - distance(a, q));
      for (const stop of inside) {
        run.push(stop);
        finish();
        run = [stop];
      }
      if (!inside.some((p) => same(p, b))) run.push(b);
    }
    finish();
  }
  return pieces;
}

const distance = (a: Point, b: Point) => Math.abs(a[0] - b[0]) + Math.abs(a[1] - b[1]);

/** Wires that meet end to end, with nothing else there, as one. */
function merged(wires: Wire[], fixed: Set<string>): Wire[] {
  const kept = new Map(wires.map((wire) => [wire.id, wire]));
  const at = new Map<string, string[]>();
  for (const wire of wires)
    for (const end of endsOf(wire)) at.set(key(end), [...(at.get(key(end)) ?? []), wire.id]);
  for (const [point, pair] of at) {
    const [one, two] = pair.map((id) => kept.get(id)) as [Wire, Wire];
    if (pair.length !== 2 || one === two || fixed.has(point)) continue;
    const head = key(endsOf(one)[1]) === point ? one.points : [...one.points].reverse();
    const tail = key(endsOf(two)[0]) === point ? two.points : [...two.points].reverse();
    kept.delete(two.id);
    kept.set(one.id, { ...one, points: simplified([...head, ...tail]) });
    const far = key(tail.at(-1) as Point);
    at.set(
      far,
      (at.get(far) ?? []).map((id) => (id === two.id ? one.id : id)),
    );
  }
  return [...kept.values()];
}

/** What is moved: parts, wires and names by id. */
export type Chosen = ReadonlySet<string>;

/** The drawing with the chosen things shifted, wires following and names staying on their wires. */
export function shiftedBy(
  schematic: Schematic,
  catalogue: Catalogue,
  chosen: Chosen,
  step: Point,
): Schematic {
  if (!step[0] && !step[1]) return schematic;
  const parts = schematic.parts.map((part) =>
    chosen.has(part.id) ? { ...part, at: shifted(part.at, step) } : part,
  );
  const held = pinPoints(
    schematic.parts.filter((part) => !chosen.has(part.id)),
    catalogue,
  );
  const moves = pinMoves(schematic.parts, parts, catalogue);
  for (const wire of schematic.wires)
    if (chosen.has(wire.id))
      for (const end of endsOf(wire))
        if (!held.has(key(end))) moves.set(key(end), shifted(end, step));
  return reattached(schematic, catalogue, parts, moves, chosen, step);
}

/** The drawing with parts replaced by turned or mirrored ones, wires following. */
export function withParts(schematic: Schematic, catalogue: Catalogue, changed: Part[]): Schematic {
  const byId = new Map(changed.map((part) => [part.id, part]));
  const parts = schematic.parts.map((part) => byId.get(part.id) ?? part);
  const moves = pinMoves(schematic.parts, parts, catalogue);
  return reattached(schematic, catalogue, parts, moves, new Set(), [0, 0]);
}

/** The drawing after a block got its pins elsewhere, the wires of its uses following. */
export function withKinds(
  schematic: Schematic,
  block: string,
  before: Catalogue,
  after: Catalogue,
): Schematic {
  const parts = schematic.parts.map((part) => (part.block === block ? { ...part } : part));
  const moves = new Map<string, Point>();
  for (const part of parts) {
    if (part.block !== block) continue;
    const to = pinsOf(part, after);
    for (const pin of pinsOf(part, before)) {
      const target = to[pin.index]?.at;
      if (target && !same(target, pin.at)) moves.set(key(pin.at), target);
    }
  }
  return reattached(schematic, after, parts, moves, new Set(), [0, 0]);
}

function pinPoints(parts: Part[], catalogue: Catalogue): Set<string> {
  return new Set(parts.flatMap((part) => pinsOf(part, catalogue).map((pin) => key(pin.at))));
}

function pinMoves(before: Part[], after: Part[], catalogue: Catalogue): Map<string, Point> {
  const moves = new Map<string, Point>();
  before.forEach((part, i) => {
    const now = after[i] as Part;
    if (now === part) return;
    const from = pinsOf(part, catalogue);
    const to = pinsOf(now, catalogue);
    // A part reversed where it stands swaps its pins' wires: that is what reversing is for.
    if (from.every((pin) => to.some((other) => same(other.at, pin.at)))) return;
    from.forEach((pin, j) => {
      const target = to[j]?.at;
      if (target) moves.set(key(pin.at), target);
    });
  });
  return moves;
}

function reattached(
  drawn: Schematic,
  catalogue: Catalogue,
  parts: Part[],
  moves: Map<string, Point>,
  chosen: Chosen,
  step: Point,
): Schematic {
  // A wire that another joins in its middle is two: the joint stays when one end is pulled away.
  const schematic = tidyOf(drawn, catalogue);
  const still = pinPoints(
    schematic.parts.filter((part, i) => parts[i] === part),
    catalogue,
  );
  const target = (point: Point): Point =>
    still.has(key(point)) ? point : (moves.get(key(point)) ?? point);
  const moving = { ...schematic, parts };
  const touched = new Set<string>();
  for (const wire of schematic.wires)
    if (endsOf(wire).some((end) => !same(target(end), end)) || chosen.has(wire.id))
      touched.add(wire.id);
  // One after the other, so that those laid anew keep clear of each other too.
  const around = surroundings(moving, catalogue, touched);
  const wires = schematic.wires.map((wire) => {
    if (!touched.has(wire.id)) return wire;
    const [a, b] = endsOf(wire);
    const points = follow(wire.points, target(a), target(b), around);
    around.lay(points);
    return { ...wire, points };
  });
  // Pins that touched each other stay joined by a wire.
  for (const [point, to] of moves) {
    const from = point.split(",").map(Number) as Point;
    if (still.has(point) && !same(from, to))
      wires.push({ id: freshId("w", wires), points: route(from, to, around) });
  }
  const labels = schematic.labels.map((label) => {
    if (chosen.has(label.id)) return { ...label, at: shifted(label.at, step) };
    const moved = moves.get(key(label.at));
    if (moved && !still.has(key(label.at))) return { ...label, at: moved };
    const host = schematic.wires.findIndex((w) => touched.has(w.id) && onWire(label.at, w.points));
    if (host < 0) return label;
    const points = (wires[host] as Wire).points;
    return onWire(label.at, points) ? label : { ...label, at: nearestOn(label.at, points) };
  });
  const notes = schematic.notes.map((note) =>
    chosen.has(note.id) ? { ...note, at: shifted(note.at, step) } : note,
  );
  // Pins that came to touch each other need no wire.
  const laid = wires.filter((wire) => wire.points.length > 2 || !same(...endsOf(wire)));
  return { ...moving, wires: laid, labels, notes };
}

/** A wire whose ends go to `a` and `b`: shifted, stretched at its corners, or laid anew. */
function follow(points: Point[], a: Point, b: Point, around: Surroundings): Point[] {
  const [first, last] = [points[0] as Point, points.at(-1) as Point];
  const [da, db]: [Point, Point] = [
    [a[0] - first[0], a[1] - first[1]],
    [b[0] - last[0], b[1] - last[1]],
  ];
  if (same(da, db)) return points.map((p) => shifted(p, da));
  if (same(a, b)) return [a, b];
  if (points.length > 2) {
    const stretched = pulled(pulled(points, a), b, true);
    const isSquare = segmentsOf(stretched).every(([p, q]) => p[0] === q[0] || p[1] === q[1]);
    const result = simplified(stretched);
    if (isSquare && result.length > 1 && costOf(result, around) < HOPELESS) return result;
  }
  return route(a, b, around);
}

function pulled(points: Point[], end: Point, atLast = false): Point[] {
  const run = atLast ? [...points].reverse() : [...points];
  const [old, corner] = run as [Point, Point];
  const horizontal = old[1] === corner[1];
  run[0] = end;
  run[1] = horizontal ? [corner[0], end[1]] : [end[0], corner[1]];
  return atLast ? run.reverse() : run;
}

/** A part with two ends that lies along a wire, taking the place of the piece between its ends. */
export function spliced(schematic: Schematic, id: string, catalogue: Catalogue): Schematic {
  const part = schematic.parts.find((item) => item.id === id);
  const ends = part ? pinsOf(part, catalogue).map((pin) => key(pin.at)) : [];
  if (ends.length !== 2) return schematic;
  const wires = schematic.wires.filter((wire) => {
    const touching = [wire.points[0] as Point, wire.points.at(-1) as Point].map(key);
    return !(wire.points.length === 2 && ends.every((end) => touching.includes(end)));
  });
  return wires.length === schematic.wires.length ? schematic : { ...schematic, wires };
}
