// Texts put down one after the other, each at the best place that those before it left.
//
// A place is free where it touches no part and no other text; of those, the one that crosses fewest wires
// is taken. A text stays where it was as long as that place is free and still beside what it speaks of,
// unless it was a poor one and something was changed near it: what is being read does not jump about.
import type { Point } from "../../api/types";
import { type Box, grown, spanned } from "../model/geometry";
import type { Space } from "../model/space";
import { leaderOf } from "./leaders";
import { type Line, type Measure, type Note, type Place, TEXT } from "./notes";

const SIDE = 0.3; // air kept around a text
const LEADER_STEP = 0.6; // grid units between the places of a leader that are looked at
const LEADER_HALF = 0.05;
const AROUND = 5; // grid units from a change within which poor places are given up

export type Wanted = Pick<Note, "id" | "owner" | "quantity" | "lines" | "flag">;

/** A text that is asked for: where it may stand, or where it stands because someone put it there. */
export interface Request {
  note: Wanted;
  places(): Iterable<Place>;
  /** Its upper left corner, put by hand. */
  corner?: Point;
  /** Left out rather than put across a wire. */
  onlyClear?: boolean;
  /** Whether a place is beside what the text speaks of, though none of those offered. */
  fits?(place: Place): boolean;
}

/** What the drawing covers: parts, which no text may touch, and wires, which it should not. */
export interface Drawn {
  hard: Space;
  soft: Space;
}

export class Layout {
  private readonly notes = new Map<string, Note>();

  /** `taken` is where arrows are, and comes to be where texts are too; `changed` where the drawing is
   * otherwise than before. */
  constructor(
    private readonly drawn: Drawn,
    private readonly taken: Space,
    private readonly changed: Space,
    private readonly measure: Measure,
  ) {}

  /** Every text that found a place, in the order asked for; where it was `before`, if it can. */
  placed(requests: Request[], before: ReadonlyMap<string, Note>): Note[] {
    for (const request of requests) if (request.corner) this.byHand(request.note, request.corner);
    for (const request of requests) if (!request.corner) this.stay(request, before);
    for (const request of requests)
      if (!this.notes.has(request.note.id)) this.search(request, before.get(request.note.id));
    return requests.flatMap(({ note }) => this.notes.get(note.id) ?? []);
  }

  private byHand(note: Wanted, [x, y]: Point): void {
    const [width, height] = this.sizeOf(note.lines);
    const place: Place = { at: [x, y + height / 2], hold: "left" };
    this.put({ ...this.writtenAt(note, place, width, height), byHand: true });
  }

  private stay(request: Request, before: ReadonlyMap<string, Note>): void {
    const note = before.get(request.note.id);
    if (!note || !isOffered(request, note.place)) return;
    const { place } = note;
    const [width, height] = this.sizeOf(request.note.lines);
    const box = boxAt(place, width, height);
    if (this.drawn.hard.meets(box) || this.taken.meets(box)) return;
    if (this.drawn.soft.count(box) > (place.crossed ?? 0)) return;
    if ((place.leader || place.crossed) && !this.isFar(note)) return;
    this.put(this.writtenAt(request.note, place, width, height));
  }

  /** Whether nothing has changed around a text, or where its line leads. */
  private isFar({ box, leader }: Note): boolean {
    const end = leader && spanned(leader[1], leader[1]);
    const meets = (there: Box) => this.changed.meets(grown(there, AROUND));
    return !meets(box) && !(end && meets(end));
  }

  private search(request: Request, before: Note | undefined): void {
    const { note, places, onlyClear } = request;
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
    const earlier = before && isOffered(request, before.place) ? before.place : null;
    if (earlier) judge(earlier);
    if (fewest > (earlier?.crossed ?? 0))
      for (const place of places()) {
        judge(place);
        if (!fewest) break;
      }
    if (!best || (onlyClear && this.drawn.soft.count(boxAt(best, width, height)))) return;
    const place: Place = fewest ? { ...(best as Place), crossed: fewest } : best;
    this.put(this.writtenAt(note, place, width, height));
  }

  private put(note: Note): void {
    this.notes.set(note.id, note);
    // A little air beside it too, where it was not put there by hand.
    const { left, right } = note.box;
    this.taken.add(
      note.byHand ? note.box : { ...note.box, left: left - SIDE, right: right + SIDE },
    );
  }

  /** To what stands beside a part may lead what is of the part as a whole. */
  private captionOf(note: Wanted): Box | undefined {
    return note.id.startsWith("power ") ? this.notes.get(`part ${note.owner}`)?.box : undefined;
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

  private writtenAt(note: Wanted, place: Place, width: number, height: number): Note {
    const box = boxAt(place, width, height);
    const align = place.hold === "left" ? "start" : place.hold === "right" ? "end" : "middle";
    const leader = place.leader ? leaderOf(box, place.leader, this.captionOf(note)) : null;
    return { ...note, box, place, align, leader };
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

/** Whether a place that a text had is one of those it may have. */
function isOffered({ places, fits }: Request, place: Place): boolean {
  if (fits?.(place)) return true;
  const [x, y] = place.at;
  for (const { at, hold } of places())
    if (at[0] === x && at[1] === y && hold === place.hold) return true;
  return false;
}

/** "left" holds the text's left edge at the point, "above" puts it above the point, and so on. */
function boxAt({ at: [x, y], hold }: Place, width: number, height: number): Box {
  const left = hold === "left" ? x : hold === "right" ? x - width : x - width / 2;
  const top = hold === "above" ? y - height : hold === "below" ? y : y - height / 2;
  return { left, top, right: left + width, bottom: top + height };
}
