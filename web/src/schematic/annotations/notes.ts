// What is written on the drawing: texts with their places, and arrows of currents.
import type { Part, Point, QuantityLook, Schematic } from "../../api/types";
import { type Box, sameSides } from "../model/geometry";

export const TEXT = 1.5; // height of a line, grid units
export const GAP = 0.5; // between a text and what it speaks of

/** Which figures are drawn. */
export interface Layers {
  voltage: boolean;
  current: boolean;
  power: boolean;
  title: boolean;
}

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
  /** The drawing they are written on, and the ids of all that should be: some may have found no place. */
  of?: Schematic;
  asked?: ReadonlySet<string>;
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
