// Laying out everything written on the drawing so that nothing covers anything else.
//
// Each text has a list of places, best first; the first that touches no part, no other text and no
// wire is taken, else the one that crosses fewest wires. A text that finds no free place is left out
// of the drawing, a power too that would lie across a wire; its figure still stands in the tables.
// Texts stay where they are as long as nothing is drawn, moved or taken away near them and they have
// room there: what is being read does not jump about.
import type { Kind, Look, Part, Point, QuantityLook, Schematic } from "../api/types";
import {
  type Box,
  bodyOf,
  type Catalogue,
  grown,
  key,
  kindOf,
  onWire,
  overlap,
  pinsOf,
  same,
  sameSides,
  segmentsOf,
  shifted,
  spanned,
} from "./geometry";
import { Space } from "./space";
import type { Layers } from "./tools";

export const TEXT = 1.5; // height of a line, grid units
const GAP = 0.5;
const WIRE_HALF = 0.15;
const SIDE = 0.3; // air kept around a text
const ROUNDING = 1e-9;
const LEADER_STEP = 0.6; // grid units between the places of a leader that are looked at
const LEADER_HALF = 0.05;
const AROUND = 5; // grid units from a change within which texts are laid out anew

export type Tone = "name" | "value" | "voltage" | "current" | "power";

export interface Line {
  text: string;
  tone: Tone;
}

export interface Note {
  id: string;
  /** The part or name that opens when it is pressed. */
  owner: string | null;
  quantity: string | null;
  lines: Line[][];
  box: Box;
  place: Place;
  align: "start" | "middle" | "end";
  /** From the text to the place it speaks of, where they are apart. */
  leader: [Point, Point] | null;
  /** A node's name, drawn as a small flag on its wire. */
  flag?: boolean;
  byHand?: boolean;
}

export interface Arrow {
  quantity: string;
  part: Part;
  at: Point;
  flow: QuantityLook["flow"];
  /** Unit step the current flows in. */
  towards: Point;
}

export interface Annotations {
  notes: Note[];
  arrows: Arrow[];
}

/** Annotations that the next ones may follow; then `drawn`, `taken` and `asked` go over to those. */
export interface Laid extends Annotations {
  of: Drawing;
  drawn: Drawn;
  /** Where texts and arrows are. */
  taken: Space;
  /** What was asked for, in its order, and the text that came of it, where there was a place. */
  requests: (Request | Note)[];
  placed: (Note | null)[];
  asked: Asked;
}

/** What was asked for, by what was told by the look; asked for again as long as that is the very same. */
type Asked = WeakMap<object, Map<string, Request | Note>>;

/** What the places of texts are found from. */
interface Drawing {
  schematic: Schematic;
  catalogue: Catalogue;
  layers: Layers;
  measure: Measure;
}

export type Measure = (text: string, tone: Tone) => number;

export interface Place {
  /** The corner or edge middle of the text that is put at `at`. */
  at: Point;
  hold: "left" | "right" | "above" | "below";
  /** What a line is drawn to from the text, as they are apart. */
  leader?: Box;
  /** The point of a node that it is beside. */
  beside?: Point;
  /** How much is crossed there. */
  crossed?: number;
}

type Wanted = Pick<Note, "id" | "owner" | "quantity" | "lines" | "flag">;

interface Request {
  note: Wanted;
  places(): Iterable<Place>;
  /** Left out rather than put across a wire. */
  onlyClear?: boolean;
  /** Whether a place found before is still beside what the text speaks of. */
  fits?(place: Place): boolean;
}

class Layout {
  readonly requests: (Request | Note)[] = [];
  /** What stands beside a part, by the part's id: to it may lead what is of the part as a whole. */
  private readonly captions = new Map<string, Box>();

  constructor(
    private readonly drawn: Drawn,
    private readonly taken: Space,
    private readonly measure: Measure,
    private readonly asked: Asked,
  ) {}

  /** What `ask` asks for, which follows from `told` and the drawing alone. */
  once(told: object, tone: string, ask: () => void): void {
    const before = this.asked.get(told);
    const known = before?.get(tone);
    if (known) {
      this.requests.push(known);
      return;
    }
    const count = this.requests.length;
    ask();
    const request = this.requests[count];
    if (!request) return;
    if (before) before.set(tone, request);
    else this.asked.set(told, new Map([[tone, request]]));
  }

  /** Put a text where someone wants it, whatever is there; `at` is its upper left corner. */
  put(note: Wanted, [x, y]: Point): void {
    const [width, height] = this.sizeOf(note.lines);
    const place: Place = { at: [x, y + height / 2], hold: "left" };
    this.requests.push({ ...writtenAt(note, place, width, height), byHand: true });
  }

  /** Ask for a text at the best of `places`, which are looked through when all is asked for. */
  place(
    note: Wanted,
    places: Request["places"],
    more: Omit<Request, "note" | "places"> = {},
  ): void {
    this.requests.push({ note, places, ...more });
  }

  private sizeOf(lines: Line[][]): [number, number] {
    const width = Math.max(
      ...lines.map(
        (line) =>
          line.reduce((sum, piece) => sum + this.measure(piece.text, piece.tone), 0) +
          0.45 * (line.length - 1),
      ),
    );
    return [width, TEXT * lines.length + SIDE / 2];
  }

  /** All that was asked for, in the order it was, each at the best place that those before left. */
  places(): (Note | null)[] {
    for (const request of this.requests) if ("box" in request) this.taken.add(request.box);
    return this.requests.map((request) =>
      this.written("box" in request ? request : this.search(request)),
    );
  }

  /** The same, where what was there before keeps its place if it can, and nothing near it has changed.
   * Null where others would have to give way: a name finds no place, or a figure none any more though
   * nothing is drawn otherwise. */
  placesAfter({ requests, placed }: Laid, changed: Space): (Note | null)[] | null {
    const unchanged = (k: number) => requests[k] === this.requests[k];
    this.makeRoomByHand(requests, changed);
    // Where most are in a row as before, only the others are looked for by what they are called.
    const earlier = new Map<string, Note>();
    const leftOut = new Set<string>();
    for (const [k, note] of placed.entries()) {
      if (note && !(unchanged(k) && isFar(note, changed))) earlier.set(note.id, note);
      else if (!note) leftOut.add(idOf(requests[k] as Request));
    }
    const keptFor = (request: Request | Note, k: number): Note | Place | null => {
      const same = unchanged(k) ? placed[k] : null;
      if (same && !earlier.has(same.id)) return same;
      const note = "box" in request ? request : request.note;
      const before = earlier.get(note.id);
      earlier.delete(note.id);
      const stays =
        before &&
        isFar(before, changed) &&
        ("box" in request || (request.fits?.(before.place) ?? true));
      if (stays && sameWords(before.lines, note.lines))
        return before.quantity === note.quantity ? before : { ...before, quantity: note.quantity };
      if (before) this.taken.remove(spaceOf(before));
      const kept = "box" in request ? request : stays && this.keptAt(before, request.note);
      if (kept) this.taken.add(spaceOf(kept));
      return kept || (stays ? before.place : null);
    };
    const found = this.requests.map((request, k) => {
      const kept = keptFor(request, k);
      return kept && "box" in kept ? this.written(kept) : kept;
    });
    // What found no place before is looked at again where it has changed, or there may be room now.
    const free = new Space();
    for (const gone of earlier.values()) {
      this.taken.remove(spaceOf(gone));
      free.add(gone.box);
    }
    const hopeless = (request: Request, k: number) =>
      leftOut.has(request.note.id) &&
      (unchanged(k) || !changed.isEmpty) &&
      isFarFrom(request, changed) &&
      isFarFrom(request, free);
    const written: (Note | null)[] = [];
    for (const [k, request] of this.requests.entries()) {
      const before = found[k] ?? null;
      if (before && "box" in before) written.push(before);
      else if ("box" in request) written.push(request);
      else if (!before && hopeless(request, k)) written.push(null);
      else {
        const note = this.written(this.search(request, before));
        const matters = changed.isEmpty || isName(request.note);
        if (!note && matters && !leftOut.has(request.note.id)) return null;
        written.push(note);
      }
    }
    return written;
  }

  /** Into `changed`, where texts are put by hand that were not there before. */
  private makeRoomByHand(before: (Request | Note)[], changed: Space): void {
    const boxes = new Map(before.flatMap((note) => ("box" in note ? [[note.id, note.box]] : [])));
    for (const note of this.requests)
      if ("box" in note && !sameSides(boxes.get(note.id), note.box)) changed.add(note.box);
  }

  /** `note` where it was before, if it has room there. */
  private keptAt({ box, place }: Note, note: Wanted): Note | null {
    const [width, height] = this.sizeOf(note.lines);
    const [room, high] = [box.right - box.left + ROUNDING, box.bottom - box.top + ROUNDING];
    return width <= room && height <= high
      ? writtenAt(note, place, width, height, this.captionOf(note))
      : null;
  }

  private written<N extends Note | null>(note: N): N {
    if (note?.owner && note.id === `part ${note.owner}`) this.captions.set(note.owner, note.box);
    return note;
  }

  private captionOf = (note: Wanted) =>
    note.id.startsWith("power ") ? this.captions.get(note.owner ?? "") : undefined;

  private search({ note, places, onlyClear }: Request, before?: Place | null): Note | null {
    const [width, height] = this.sizeOf(note.lines);
    const caption = this.captionOf(note);
    let best: Place | null = null;
    let fewest = Number.POSITIVE_INFINITY;
    const judge = (place: Place) => {
      const box = boxAt(place, width, height);
      if (this.drawn.hard.meets(box) || this.taken.meets(box)) return;
      let crossed = this.drawn.soft.count(box);
      if (place.leader && crossed < fewest)
        crossed += this.covered(leaderOf(box, place.leader, caption));
      if (crossed < fewest) [best, fewest] = [place, crossed];
    };
    if (before) judge(before);
    if (fewest > (before?.crossed ?? 0))
      for (const place of places()) {
        judge(place);
        if (!fewest) break;
      }
    if (!best || (onlyClear && this.drawn.soft.count(boxAt(best, width, height)))) return null;
    const place: Place = fewest ? { ...(best as Place), crossed: fewest } : best;
    const written = writtenAt(note, place, width, height, caption);
    this.taken.add(spaceOf(written));
    return written;
  }

  /** How many places along a line, short of its end, are taken. */
  private covered([[x, y], [toX, toY]]: [Point, Point]): number {
    const steps = Math.ceil(Math.hypot(toX - x, toY - y) / LEADER_STEP);
    let count = 0;
    for (let k = 1; k < steps; k++) {
      const here: Point = [x + (k / steps) * (toX - x), y + (k / steps) * (toY - y)];
      const box = grown(spanned(here, here), LEADER_HALF);
      if (this.drawn.hard.meets(box) || this.taken.meets(box)) count++;
    }
    return count;
  }
}

const idOf = (request: Request | Note) => ("box" in request ? request.id : request.note.id);

const isName = ({ id }: Wanted) => id.startsWith("part ") || id.startsWith("label ");

/** Whether nothing has changed where a text could be put. */
function isFarFrom(request: Request, changed: Space): boolean {
  if (changed.isEmpty) return true;
  for (const { at } of request.places()) return !changed.meets(grown(spanned(at, at), 2 * AROUND));
  return true;
}

/** Whether nothing has changed around a text, or where its line leads. */
function isFar({ box, leader }: Note, changed: Space): boolean {
  if (changed.isEmpty) return true;
  const end = leader && spanned(leader[1], leader[1]);
  return !changed.meets(grown(box, AROUND)) && !(end && changed.meets(grown(end, AROUND)));
}

/** What a text takes of the sheet: a little air beside it too, where it was not put there by hand. */
const spaceOf = ({ box, byHand }: Note): Box =>
  byHand ? box : { ...box, left: box.left - SIDE, right: box.right + SIDE };

function writtenAt(note: Wanted, place: Place, width: number, height: number, caption?: Box): Note {
  const box = boxAt(place, width, height);
  const align = place.hold === "left" ? "start" : place.hold === "right" ? "end" : "middle";
  const leader = place.leader ? leaderOf(box, place.leader, caption) : null;
  return { ...note, box, place, align, leader };
}

export const sameNote = (a: Note, b: Note): boolean =>
  a === b ||
  (a.id === b.id &&
    a.owner === b.owner &&
    a.quantity === b.quantity &&
    a.flag === b.flag &&
    a.align === b.align &&
    sameWords(a.lines, b.lines) &&
    sameSides(a.box, b.box) &&
    String(a.leader) === String(b.leader));

const sameWords = (a: Line[][], b: Line[][]): boolean =>
  a.length === b.length &&
  a.every((line, row) => {
    const other = b[row] as Line[];
    return (
      line.length === other.length &&
      line.every((piece, i) => piece.text === other[i]?.text && piece.tone === other[i]?.tone)
    );
  });

/** What a drawing itself covers: parts, which no text may touch, and wires, which it should not. */
interface Drawn {
  hard: Space;
  soft: Space;
}

const NOTHING: Schematic = { parts: [], wires: [], junctions: [], labels: [], notes: [] };

/** What `of` covers, made of what `before` did, which is used up; and, into `changed`, where they differ. */
function drawnOf(of: Drawing, before: Laid | null, changed: Space): Drawn {
  const { hard, soft } = before?.drawn ?? { hard: new Space(), soft: new Space() };
  const [old, now] = [before?.of.schematic ?? NOTHING, of.schematic];
  const exchange = <T>(then: readonly T[], list: readonly T[], boxes: (item: T) => Boxes) => {
    if (then === list) return;
    const [gone, come] = [new Set(then), new Set(list)];
    for (const item of then) if (!come.has(item)) each(boxes(item), "remove");
    for (const item of list) if (!gone.has(item)) each(boxes(item), "add");
  };
  const each = (boxes: Boxes, way: "add" | "remove") => {
    for (const box of boxes.hard ?? []) hard[way](box);
    for (const box of boxes.soft ?? []) soft[way](box);
    for (const box of [...(boxes.hard ?? []), ...(boxes.soft ?? []), ...(boxes.bare ?? [])])
      changed.add(box);
  };
  exchange(old.parts, now.parts, (part) => ({ hard: partBoxes(part, of.catalogue) }));
  exchange(old.wires, now.wires, ({ points }) => ({
    soft: segmentsOf(points).map(([a, b]) => grown(spanned(a, b), WIRE_HALF)),
  }));
  exchange(old.labels, now.labels, ({ at }) => ({ bare: [spanned(at, at)] }));
  exchange(old.notes, now.notes, (note) => ({ hard: [noteBox(note)] }));
  return { hard, soft };
}

/** What a thing covers, and what it concerns without covering it. */
interface Boxes {
  hard?: Box[];
  soft?: Box[];
  bare?: Box[];
}

/** A part's body and its leads; a part is never changed but replaced, so these are the same each time. */
function partBoxes(part: Part, catalogue: Catalogue): Box[] {
  const body = bodyOf(part, catalogue);
  const leads = pinsOf(part, catalogue).map((pin) =>
    grown(spanned(pin.at, nearestIn(body, pin.at)), WIRE_HALF),
  );
  return [grown(body, 0.2), ...leads];
}

/** From a text to the nearest of what it speaks of, or to the caption that stands in the way. */
function leaderOf(text: Box, target: Box, caption?: Box): [Point, Point] {
  const near = nearestIn(text, [
    (target.left + target.right) / 2,
    (target.top + target.bottom) / 2,
  ]);
  const line: [Point, Point] = [near, nearestIn(target, near)];
  if (!caption || !crosses(line, caption)) return line;
  const edge = nearestIn(text, [
    (caption.left + caption.right) / 2,
    (caption.top + caption.bottom) / 2,
  ]);
  return [edge, nearestIn(caption, edge)];
}

/** Whether a line comes through a box. */
function crosses([[x, y], [toX, toY]]: [Point, Point], box: Box): boolean {
  const steps = Math.ceil(Math.hypot(toX - x, toY - y) / LEADER_HALF);
  for (let k = 0; k <= steps; k++) {
    const here: Point = [x + (k / steps) * (toX - x), y + (k / steps) * (toY - y)];
    if (overlap(spanned(here, here), box)) return true;
  }
  return false;
}

/** "left" holds the text's left edge at the point, "above" puts it above the point, and so on. */
function boxAt({ at: [x, y], hold }: Place, width: number, height: number): Box {
  const left = hold === "left" ? x : hold === "right" ? x - width : x - width / 2;
  const top = hold === "above" ? y - height : hold === "below" ? y : y - height / 2;
  return { left, top, right: left + width, bottom: top + height };
}

function nearestIn(box: Box, [x, y]: Point): Point {
  return [Math.min(Math.max(x, box.left), box.right), Math.min(Math.max(y, box.top), box.bottom)];
}

const isUpright = (part: Part) => part.rotation === 90 || part.rotation === 270;

/** Everything written on `schematic`; after `before`, which is used up, where what was written stays as
 * long as nothing near it changes. */
export function annotate(
  schematic: Schematic,
  look: Look | null,
  catalogue: Catalogue,
  layers: Layers,
  measure: Measure,
  before: Laid | null = null,
): Laid {
  const of = { schematic, catalogue, layers, measure };
  const follows = before && sameKind(before.of, of) ? before : null;
  const changed = new Space();
  const drawn = drawnOf(of, follows, changed);
  const asked = follows && changed.isEmpty ? follows.asked : new WeakMap();
  const figures = new Map(look?.quantities.map((quantity) => [quantity.name, quantity]));
  const earlier = follows?.arrows ?? [];
  const heads = layers.current ? arrows(schematic, catalogue, figures, earlier) : [];
  const taken = follows?.taken ?? new Space();
  if (heads !== earlier) exchangeArrows(earlier, heads, taken, changed);
  const layout = new Layout(drawn, taken, measure, asked);
  captions(schematic, look, catalogue, layout);
  names(schematic, look, layers.voltage ? figures : new Map(), layout);
  if (layers.voltage) voltages(schematic, look, catalogue, figures, layout);
  if (layers.current) currents(heads, figures, layout);
  if (layers.power) powers(schematic, catalogue, figures, layout);
  // Where one lost its place to others that kept theirs, all are laid out anew, the first ones first.
  const placed = follows ? layout.placesAfter(follows, changed) : layout.places();
  if (!placed) return annotate(schematic, look, catalogue, layers, measure);
  const notes = placed.filter((note) => note !== null);
  return { placed, notes, arrows: heads, requests: layout.requests, asked, of, drawn, taken };
}

const sameKind = (a: Drawing, b: Drawing): boolean =>
  a.catalogue === b.catalogue && a.layers === b.layers && a.measure === b.measure;

function exchangeArrows(earlier: Arrow[], now: Arrow[], taken: Space, changed: Space): void {
  const placeOf = ({ quantity, at }: Arrow) => `${quantity} ${key(at)}`;
  const [gone, come] = [new Set(earlier.map(placeOf)), new Set(now.map(placeOf))];
  for (const arrow of earlier)
    if (!come.has(placeOf(arrow))) {
      taken.remove(arrowBox(arrow));
      changed.add(arrowBox(arrow));
    }
  for (const arrow of now)
    if (!gone.has(placeOf(arrow))) {
      taken.add(arrowBox(arrow));
      changed.add(arrowBox(arrow));
    }
}

/** Places around a box: beside it for upright parts first, above and below for lying ones first. */
function* around(box: Box, upright: boolean, steps = 3): Generator<Place> {
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

function captions(schematic: Schematic, look: Look | null, catalogue: Catalogue, layout: Layout) {
  const looks = new Map(look?.parts.map((part) => [part.id, part]));
  const caption = (part: Part, written: string | undefined) => {
    const main = kindOf(part, catalogue)?.main;
    const value = written ?? (main ? part.values[main] : "") ?? "";
    const name: Line = { text: part.name, tone: "name" };
    const words: Line[] = value ? [{ text: value, tone: "value" }] : [];
    const narrow = isUpright(part) || (kindOf(part, catalogue)?.pins.length ?? 0) > 2;
    const lines = narrow && value ? [[name], words] : [[name, ...words]];
    const note = { id: `part ${part.id}`, owner: part.id, quantity: null, lines };
    if (part.caption) layout.put(note, shifted(part.at, part.caption));
    else layout.place(note, () => around(bodyOf(part, catalogue), narrow));
  };
  for (const part of schematic.parts) {
    if (part.kind === "ground") continue;
    const told = looks.get(part.id);
    if (told) layout.once(told, "caption", () => caption(part, told.caption));
    else caption(part, undefined);
  }
}

function* besidePoint([x, y]: Point): Generator<Place> {
  const beside: Point = [x, y];
  yield { at: [x, y - GAP], hold: "above", beside };
  yield { at: [x + GAP, y - 1.1], hold: "left", beside };
  yield { at: [x - GAP, y - 1.1], hold: "right", beside };
  yield { at: [x + GAP + 0.2, y], hold: "left", beside };
  yield { at: [x - GAP - 0.2, y], hold: "right", beside };
  yield { at: [x, y + GAP], hold: "below", beside };
  yield { at: [x + GAP, y + 1.1], hold: "left", beside };
  yield { at: [x - GAP, y + 1.1], hold: "right", beside };
  const leader = spanned([x, y], [x, y]);
  for (const reach of [2.4, 4, 6, 9, 12]) {
    yield { at: [x + reach / 2, y - reach], hold: "left", leader, beside };
    yield { at: [x - reach / 2, y - reach], hold: "right", leader, beside };
    yield { at: [x + reach / 2, y + reach], hold: "left", leader, beside };
    yield { at: [x - reach / 2, y + reach], hold: "right", leader, beside };
  }
}

function names(
  schematic: Schematic,
  look: Look | null,
  figures: Map<string, QuantityLook>,
  layout: Layout,
) {
  const shown = new Set<string>();
  const nodes = new Set(look?.nets.map((net) => net.name));
  for (const label of schematic.labels) {
    const figure = shown.has(label.name) ? undefined : figures.get(`V_${label.name}`);
    shown.add(label.name);
    const line: Line[] = [{ text: label.name, tone: "name" }];
    if (figure) line.push({ text: figure.text, tone: "voltage" });
    const quantity = nodes.has(label.name) ? `V_${label.name}` : null;
    if (label.style === "supply") {
      const above: Place = { at: [label.at[0], label.at[1] - 1.2], hold: "above" };
      const note = { id: `label ${label.id}`, owner: label.id, quantity, lines: [line] };
      layout.place(note, () => [above, ...besidePoint([label.at[0], label.at[1] - 1])]);
      continue;
    }
    const isEnd = schematic.wires.some(({ points }) =>
      [points[0], points.at(-1)].some((end) => end && same(end, label.at)),
    );
    const places = () => (isEnd ? endPlaces(schematic, label.at) : besidePoint(label.at));
    const note = { id: `label ${label.id}`, owner: label.id, quantity, lines: [line], flag: true };
    layout.place(note, places);
  }
}

/** A name at the loose end of a wire continues the wire. */
function* endPlaces(schematic: Schematic, at: Point): Generator<Place> {
  for (const wire of schematic.wires) {
    const points =
      key(wire.points[0] as Point) === key(at) ? wire.points : [...wire.points].reverse();
    if (key(points[0] as Point) !== key(at)) continue;
    const dx = Math.sign(at[0] - (points[1] as Point)[0]);
    const dy = Math.sign(at[1] - (points[1] as Point)[1]);
    if (dx > 0) yield { at: [at[0] + GAP, at[1]], hold: "left" };
    if (dx < 0) yield { at: [at[0] - GAP, at[1]], hold: "right" };
    if (dy > 0) yield { at: [at[0], at[1] + GAP], hold: "below" };
    if (dy < 0) yield { at: [at[0], at[1] - GAP], hold: "above" };
  }
  yield* besidePoint(at);
}

function voltages(
  schematic: Schematic,
  look: Look | null,
  catalogue: Catalogue,
  figures: Map<string, QuantityLook>,
  layout: Layout,
) {
  const places = new NetPlaces(schematic, catalogue);
  for (const net of look?.nets ?? []) {
    const figure = figures.get(`V_${net.name}`);
    if (!figure || net.named || net.ground) continue;
    layout.once(figure, "voltage", () => {
      const line: Line[] = [
        { text: net.name, tone: "name" },
        { text: figure.text, tone: "voltage" },
      ];
      // Names given by number go over to other nodes as some come and go; a pin does not.
      const note = { id: `node ${net.pins[0]}`, owner: null, quantity: figure.name, lines: [line] };
      layout.place(note, () => places.beside(net), { fits: (place) => places.has(net, place) });
    });
  }
}

type Net = Look["nets"][number];

/** Where the nodes of a drawing are. */
class NetPlaces {
  private readonly wires: Map<string, Point[]>;
  private readonly parts: Map<string, Part>;

  constructor(
    { wires, parts }: Schematic,
    private readonly catalogue: Catalogue,
  ) {
    this.wires = new Map(wires.map((wire) => [wire.id, wire.points]));
    this.parts = new Map(parts.map((part) => [part.id, part]));
  }

  /** Places beside the wires of a node, then beside its pins. */
  *beside(net: Net): Generator<Place> {
    for (const id of net.wires)
      for (const [a, b] of segmentsOf(this.wires.get(id) ?? []))
        yield* besidePoint([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
    for (const pin of this.pinsOf(net)) yield* besidePoint(pin);
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

/** Where a current is told: on the lead of the pin it enters, or of the far pin of a two-pin part. */
function arrowOf(
  part: Part,
  catalogue: Catalogue,
  current: Kind["currents"][number],
  figure: QuantityLook,
): Arrow | null {
  const pins = pinsOf(part, catalogue);
  const through = !current.name && pins.length === 2;
  const pin = through ? pins.at(-1) : pins[current.pin];
  if (!pin) return null;
  const near = nearestIn(bodyOf(part, catalogue), pin.at);
  const out = figure.flow > 0 === through;
  return {
    quantity: figure.name,
    part,
    flow: figure.flow,
    at: [(near[0] + pin.at[0]) / 2, (near[1] + pin.at[1]) / 2],
    towards: out ? pin.outward : [-pin.outward[0], -pin.outward[1]],
  };
}

/** One for each current that flows; the very ones that the same drawing had `earlier`, where they are. */
function arrows(
  schematic: Schematic,
  catalogue: Catalogue,
  figures: Map<string, QuantityLook>,
  earlier: Arrow[],
): Arrow[] {
  const known = new Map(earlier.map((arrow) => [arrow.quantity, arrow]));
  const found: Arrow[] = [];
  for (const part of schematic.parts)
    for (const current of kindOf(part, catalogue)?.currents ?? []) {
      const name = `I_${part.name}${current.name ? `.${current.name}` : ""}`;
      const figure = figures.get(name);
      if (!figure?.flow) continue;
      const before = known.get(name);
      const stays = before?.part === part && before.flow === figure.flow;
      const arrow = stays ? before : arrowOf(part, catalogue, current, figure);
      if (arrow) found.push(arrow);
    }
  const all = found.length === earlier.length && found.every((arrow, k) => arrow === earlier[k]);
  return all ? earlier : found;
}

const arrowBox = ({ at }: Arrow): Box => grown(spanned(at, at), 0.55);

/** A figure of a part, written as near as may be to `box`. */
function write(
  layout: Layout,
  part: Part,
  figure: QuantityLook,
  { tone, text, box, upright, steps }: Figure,
) {
  const note = { id: `${tone} ${figure.name}`, owner: part.id, quantity: figure.name };
  const places = () => around(box, upright, steps);
  const onlyClear = tone === "power";
  layout.place({ ...note, lines: [[{ text, tone }]] }, places, { onlyClear });
}

interface Figure {
  tone: Tone;
  text: string;
  box: Box;
  upright: boolean;
  steps: number;
}

function currents(heads: Arrow[], figures: Map<string, QuantityLook>, layout: Layout) {
  for (const arrow of heads) {
    const figure = figures.get(arrow.quantity);
    if (!figure) continue;
    layout.once(figure, "current", () => {
      const [box, upright] = [arrowBox(arrow), arrow.towards[0] === 0];
      const text = figure.magnitude;
      write(layout, arrow.part, figure, { tone: "current", text, box, upright, steps: 4 });
    });
  }
}

function powers(
  schematic: Schematic,
  catalogue: Catalogue,
  figures: Map<string, QuantityLook>,
  layout: Layout,
) {
  for (const part of schematic.parts) {
    const figure = figures.get(`P_${part.name}`);
    if (!figure?.flow) continue;
    layout.once(figure, "power", () => {
      const text = `${figure.flow < 0 ? "gives" : "takes"} ${figure.magnitude}`;
      const [box, upright] = [bodyOf(part, catalogue), isUpright(part)];
      write(layout, part, figure, { tone: "power", text, box, upright, steps: 7 });
    });
  }
}

/** The wires and pins of a node, for lighting it up. */
export function nodeWires(nets: Look["nets"] | undefined, quantity: string | null): Set<string> {
  const net = quantity && nets?.find((candidate) => `V_${candidate.name}` === quantity);
  return new Set(net ? net.wires : []);
}

/** The room a text note takes: as wide as its longest line, at most what it is broken at. */
export function noteBox(note: { at: Point; text: string }): Box {
  const lines = note.text.split("\n");
  const longest = Math.max(6, ...lines.map((line) => 0.62 * line.length));
  const width = Math.min(longest, NOTE_WIDTH);
  const rows = lines.reduce(
    (sum, line) =>
      sum +
      (line.includes("\\frac") ? 2 : Math.max(1, Math.ceil((0.62 * line.length) / NOTE_WIDTH))),
    0,
  );
  const [x, y] = note.at;
  return { left: x, top: y, right: x + width + 1, bottom: y + 1.9 * rows + 0.6 };
}

export const NOTE_WIDTH = 30; // grid units a note's line has at most

/** Texts and arrows of the chosen parts shifted along with them, all others as they are. */
export function carried(laid: Annotations, ids: ReadonlySet<string>, step: Point): Annotations {
  const move = (point: Point): Point => shifted(point, step);
  return {
    notes: laid.notes.map((note) =>
      note.owner && ids.has(note.owner)
        ? {
            ...note,
            box: {
              left: note.box.left + step[0],
              right: note.box.right + step[0],
              top: note.box.top + step[1],
              bottom: note.box.bottom + step[1],
            },
            leader: note.leader && [move(note.leader[0]), move(note.leader[1])],
          }
        : note,
    ),
    arrows: laid.arrows.map((arrow) =>
      ids.has(arrow.part.id) ? { ...arrow, at: move(arrow.at) } : arrow,
    ),
  };
}
