// Laying out everything written on the drawing so that nothing covers anything else.
//
// Each text has a list of places, best first; the first that touches no part, no other text and no
// wire is taken, else the one that crosses fewest wires. A text that finds no free place is left out
// of the drawing; its figure still stands in the tables. As long as only figures change, texts stay
// where they are, as far as they have room there: what is being read does not jump about.
import type { Kind, Look, Part, Point, QuantityLook, Schematic } from "../api/types";
import {
  type Box,
  bodyOf,
  type Catalogue,
  grown,
  key,
  kindOf,
  pinsOf,
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

/** Annotations that the next ones may follow; then `taken` and `asked` go over to those. */
export interface Laid extends Annotations {
  of: Drawing;
  /** Where no text may be put any more. */
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
  /** How much is crossed there. */
  crossed?: number;
}

type Wanted = Pick<Note, "id" | "owner" | "quantity" | "lines" | "flag">;

interface Request {
  note: Wanted;
  places(): Iterable<Place>;
}

class Layout {
  readonly requests: (Request | Note)[] = [];
  private readonly reserved: Box[] = [];

  constructor(
    private readonly drawn: Drawn,
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
  place(note: Wanted, places: () => Iterable<Place>): void {
    this.requests.push({ note, places });
  }

  /** Keep texts off `box`. */
  reserve(box: Box): void {
    this.reserved.push(box);
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
  places(): { placed: (Note | null)[]; taken: Space } {
    const taken = new Space(this.drawn.hard);
    for (const box of this.reserved) taken.add(box);
    for (const request of this.requests) if ("box" in request) taken.add(request.box);
    const placed = this.requests.map((request) =>
      "box" in request ? request : this.search(request, taken),
    );
    return { placed, taken };
  }

  /** The same, where what was there before keeps its place if it can. Null where one of those finds
   * none any more. */
  placesAfter({ requests, placed, taken }: Laid): { placed: (Note | null)[]; taken: Space } | null {
    const unchanged = (k: number) => requests[k] === this.requests[k];
    // Where most are in a row as before, only the others are looked for by what they are called.
    const earlier = new Map<string, Note>();
    for (const [k, note] of placed.entries()) if (note && !unchanged(k)) earlier.set(note.id, note);
    const found = this.requests.map((request, k): Note | Place | null => {
      if (unchanged(k) && placed[k]) return placed[k];
      const note = "box" in request ? request : request.note;
      const before = earlier.get(note.id);
      earlier.delete(note.id);
      if (before && sameWords(before.lines, note.lines))
        return before.quantity === note.quantity ? before : { ...before, quantity: note.quantity };
      if (before) taken.remove(spaceOf(before));
      const kept = "box" in request ? request : before && this.keptAt(before, request.note);
      if (kept) taken.add(spaceOf(kept));
      return kept ?? before?.place ?? null;
    });
    // What found no place before is looked at again where it has changed, or others have gone.
    const room = earlier.size > 0;
    for (const gone of earlier.values()) taken.remove(spaceOf(gone));
    const written: (Note | null)[] = [];
    for (const [k, request] of this.requests.entries()) {
      const before = found[k] ?? null;
      if (before && "box" in before) written.push(before);
      else if ("box" in request) written.push(request);
      else if (!before && unchanged(k) && !room) written.push(null);
      else {
        const note = this.search(request, taken, before);
        if (before && !note) return null;
        written.push(note);
      }
    }
    return { placed: written, taken };
  }

  /** `note` where it was before, if it has room there. */
  private keptAt({ box, place }: Note, note: Wanted): Note | null {
    const [width, height] = this.sizeOf(note.lines);
    const [room, high] = [box.right - box.left + ROUNDING, box.bottom - box.top + ROUNDING];
    return width <= room && height <= high ? writtenAt(note, place, width, height) : null;
  }

  private search({ note, places }: Request, taken: Space, before?: Place | null): Note | null {
    const [width, height] = this.sizeOf(note.lines);
    let best: Place | null = null;
    let fewest = Number.POSITIVE_INFINITY;
    const judge = (place: Place) => {
      const box = boxAt(place, width, height);
      if (taken.meets(box)) return;
      let crossed = this.drawn.soft.count(box);
      if (place.leader && crossed < fewest) crossed += covered(leaderOf(box, place.leader), taken);
      if (crossed < fewest) [best, fewest] = [place, crossed];
    };
    if (before) judge(before);
    if (fewest > (before?.crossed ?? 0))
      for (const place of places()) {
        judge(place);
        if (!fewest) break;
      }
    if (!best) return null;
    const place: Place = fewest ? { ...(best as Place), crossed: fewest } : best;
    const written = writtenAt(note, place, width, height);
    taken.add(spaceOf(written));
    return written;
  }
}

/** What a text takes of the sheet: a little air beside it too, where it was not put there by hand. */
const spaceOf = ({ box, byHand }: Note): Box =>
  byHand ? box : { ...box, left: box.left - SIDE, right: box.right + SIDE };

function writtenAt(note: Wanted, place: Place, width: number, height: number): Note {
  const box = boxAt(place, width, height);
  const align = place.hold === "left" ? "start" : place.hold === "right" ? "end" : "middle";
  const leader = place.leader ? leaderOf(box, place.leader) : null;
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
    SIDES.every((side) => a.box[side] === b.box[side]) &&
    String(a.leader) === String(b.leader));

const SIDES = ["left", "top", "right", "bottom"] as const;

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
  /** Where wires end. */
  ends: Set<string>;
}

const known = new WeakMap<Schematic, { catalogue: Catalogue; drawn: Drawn }>();

function drawnOf(schematic: Schematic, catalogue: Catalogue): Drawn {
  const before = known.get(schematic);
  if (before?.catalogue === catalogue) return before.drawn;
  const [hard, soft, ends] = [new Space(), new Space(), new Set<string>()];
  for (const part of schematic.parts) {
    const body = bodyOf(part, catalogue);
    hard.add(grown(body, 0.2));
    for (const pin of pinsOf(part, catalogue)) {
      const lead = spanned(pin.at, nearestIn(body, pin.at));
      hard.add(grown(lead, WIRE_HALF));
    }
  }
  for (const { points } of schematic.wires) {
    for (const [a, b] of segmentsOf(points)) soft.add(grown(spanned(a, b), WIRE_HALF));
    ends.add(key(points[0] as Point)).add(key(points.at(-1) as Point));
  }
  for (const note of schematic.notes) hard.add(noteBox(note));
  const drawn = { hard, soft, ends };
  known.set(schematic, { catalogue, drawn });
  return drawn;
}

/** From a text to the nearest of what it speaks of. */
function leaderOf(text: Box, { left, top, right, bottom }: Box): [Point, Point] {
  const from = nearestIn(text, [(left + right) / 2, (top + bottom) / 2]);
  return [from, nearestIn({ left, top, right, bottom }, from)];
}

/** How many places along a line, short of its end, are taken. */
function covered([[x, y], [toX, toY]]: [Point, Point], taken: Space): number {
  const steps = Math.ceil(Math.hypot(toX - x, toY - y) / LEADER_STEP);
  let count = 0;
  for (let k = 1; k < steps; k++) {
    const here: Point = [x + (k / steps) * (toX - x), y + (k / steps) * (toY - y)];
    if (taken.meets(grown(spanned(here, here), LEADER_HALF))) count++;
  }
  return count;
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

/** Everything written on `schematic`; after `before`, which is used up, if that is of the same drawing,
 * with few changes. */
export function annotate(
  schematic: Schematic,
  look: Look | null,
  catalogue: Catalogue,
  layers: Layers,
  measure: Measure,
  before: Laid | null = null,
): Laid {
  const of = { schematic, catalogue, layers, measure };
  const drawn = drawnOf(schematic, catalogue);
  const figures = new Map(look?.quantities.map((quantity) => [quantity.name, quantity]));
  const sameDrawn = before && sameDrawing(before.of, of);
  const earlier = sameDrawn ? before.arrows : [];
  const heads = layers.current ? arrows(schematic, catalogue, figures, earlier) : [];
  const follows = sameDrawn && sameArrows(before.arrows, heads);
  const asked = follows ? before.asked : new WeakMap();
  const layout = new Layout(drawn, measure, asked);
  for (const head of heads) layout.reserve(arrowBox(head));
  captions(schematic, look, catalogue, layout);
  names(schematic, look, layers.voltage ? figures : new Map(), drawn, layout);
  if (layers.voltage) voltages(schematic, look, catalogue, figures, layout);
  if (layers.current) currents(heads, figures, layout);
  if (layers.power) powers(schematic, catalogue, figures, layout);
  // Where one lost its place to others that kept theirs, all are laid out anew, the first ones first.
  const laid = follows ? layout.placesAfter(before) : layout.places();
  if (!laid) return annotate(schematic, look, catalogue, layers, measure);
  const notes = laid.placed.filter((note) => note !== null);
  return { ...laid, notes, arrows: heads, requests: layout.requests, asked, of };
}

const sameDrawing = (a: Drawing, b: Drawing): boolean =>
  a.schematic === b.schematic &&
  a.catalogue === b.catalogue &&
  a.layers === b.layers &&
  a.measure === b.measure;

/** Whether the same currents have arrows, whichever way they point. */
const sameArrows = (a: Arrow[], b: Arrow[]): boolean =>
  a.length === b.length && a.every((arrow, k) => arrow.quantity === b[k]?.quantity);

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
  yield { at: [x, y - GAP], hold: "above" };
  yield { at: [x + GAP, y - 1.1], hold: "left" };
  yield { at: [x - GAP, y - 1.1], hold: "right" };
  yield { at: [x + GAP + 0.2, y], hold: "left" };
  yield { at: [x - GAP - 0.2, y], hold: "right" };
  yield { at: [x, y + GAP], hold: "below" };
  yield { at: [x + GAP, y + 1.1], hold: "left" };
  yield { at: [x - GAP, y + 1.1], hold: "right" };
  const leader = spanned([x, y], [x, y]);
  for (const reach of [2.4, 4, 6, 9, 12]) {
    yield { at: [x + reach / 2, y - reach], hold: "left", leader };
    yield { at: [x - reach / 2, y - reach], hold: "right", leader };
    yield { at: [x + reach / 2, y + reach], hold: "left", leader };
    yield { at: [x - reach / 2, y + reach], hold: "right", leader };
  }
}

function names(
  schematic: Schematic,
  look: Look | null,
  figures: Map<string, QuantityLook>,
  drawn: Drawn,
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
    const isEnd = drawn.ends.has(key(label.at));
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
  for (const net of look?.nets ?? []) {
    const figure = figures.get(`V_${net.name}`);
    if (!figure || net.named || net.ground) continue;
    layout.once(figure, "voltage", () => {
      const line: Line[] = [
        { text: net.name, tone: "name" },
        { text: figure.text, tone: "voltage" },
      ];
      const note = { id: `node ${net.name}`, owner: null, quantity: figure.name, lines: [line] };
      layout.place(note, () => besideNet(net, schematic, catalogue));
    });
  }
}

/** Places beside the wires of a node, then beside its pins. */
function* besideNet(
  net: Look["nets"][number],
  { wires, parts }: Schematic,
  catalogue: Catalogue,
): Generator<Place> {
  for (const id of net.wires)
    for (const [a, b] of segmentsOf(wires.find((wire) => wire.id === id)?.points ?? []))
      yield* besidePoint([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
  for (const [id, index] of net.pins) {
    const part = parts.find((candidate) => candidate.id === id);
    const pin = part && pinsOf(part, catalogue)[index];
    if (pin) yield* besidePoint(pin.at);
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
  const found: Arrow[] = [];
  for (const part of schematic.parts)
    for (const current of kindOf(part, catalogue)?.currents ?? []) {
      const name = `I_${part.name}${current.name ? `.${current.name}` : ""}`;
      const figure = figures.get(name);
      if (!figure?.flow) continue;
      const known = earlier[found.length];
      const same = known?.quantity === name && known.part === part && known.flow === figure.flow;
      const arrow = same ? known : arrowOf(part, catalogue, current, figure);
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
  layout.place({ ...note, lines: [[{ text, tone }]] }, () => around(box, upright, steps));
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
    if (!figure) continue;
    layout.once(figure, "power", () => {
      const text = `${figure.flow < 0 ? "gives" : "takes"} ${figure.magnitude}`;
      const [box, upright] = [bodyOf(part, catalogue), isUpright(part)];
      write(layout, part, figure, { tone: "power", text, box, upright, steps: 5 });
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
