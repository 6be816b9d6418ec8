// Everything written on a drawing, laid out so that nothing covers anything else.
import type { Evaluation, Part, Point, Schematic, Wire } from "../../api/types";
import {
  type Box,
  bodyOf,
  type Catalogue,
  grown,
  pinsOf,
  segmentsOf,
  shifted,
  spanned,
} from "../model/geometry";
import { Space } from "../model/space";
import { arrowBox, arrows } from "./arrows";
import { type Drawn, Layout } from "./layout";
import { nearestIn } from "./leaders";
import { noteBox } from "./noteBox";
import type { Annotations, Arrow, Layers, Measure, Note } from "./notes";
import { texts } from "./texts";

const WIRE_HALF = 0.15;
const NONE: ReadonlyMap<string, Note> = new Map();

/** What is written on `schematic`. It depends on that and the look alone, but that a text stays where it
 * was `before` where it can. */
export function annotate(
  schematic: Schematic,
  look: Evaluation | null,
  catalogue: Catalogue,
  layers: Layers,
  measure: Measure,
  before: Annotations | null = null,
): Annotations {
  const figures = new Map(look?.quantities.map((quantity) => [quantity.name, quantity]));
  const heads = layers.current ? arrows(schematic, catalogue, figures) : [];
  const requests = [...texts(schematic, look, catalogue, layers, figures, heads)];
  const drawn = drawnOf(schematic, catalogue);
  const changed = before?.of ? changedBetween(before.of, schematic, catalogue) : new Space();
  const laidOut = (earlier: ReadonlyMap<string, Note>) =>
    new Layout(drawn, takenBy(heads), changed, measure).placed(requests, earlier);
  const earlier = new Map(before?.notes.map((note) => [note.id, note]));
  const notes = laidOut(earlier);
  const asked = new Set(requests.map(({ note }) => note.id));
  const told = { arrows: heads, of: schematic, asked };
  if (!earlier.size || notes.length === requests.length) return { notes, ...told };
  // What stayed may have left no room for others. Then all are laid out anew, the first ones first; but as
  // figures alone change nothing moves for the sake of one that had no room before.
  const written = new Set(notes.map((note) => note.id));
  const isAlike = before?.of === schematic && isSameSet(asked, before.asked);
  const misses = (id: string) => !written.has(id) && (!isAlike || earlier.has(id));
  if (![...asked].some(misses)) return { notes, ...told };
  const anew = laidOut(NONE);
  return { notes: anew.some((note) => misses(note.id)) ? anew : notes, ...told };
}

const isSameSet = (a: ReadonlySet<string>, b: ReadonlySet<string> | undefined): boolean =>
  a.size === b?.size && [...a].every((id) => b.has(id));

function drawnOf(schematic: Schematic, catalogue: Catalogue): Drawn {
  const [hard, soft] = [new Space(), new Space()];
  for (const part of schematic.parts) for (const box of partBoxes(part, catalogue)) hard.add(box);
  for (const wire of schematic.wires) for (const box of wireBoxes(wire)) soft.add(box);
  for (const note of schematic.notes) hard.add(noteBox(note));
  return { hard, soft };
}

/** Where something was drawn, moved or taken away between the two. */
function changedBetween(before: Schematic, now: Schematic, catalogue: Catalogue): Space {
  const changed = new Space();
  const compare = <T>(old: readonly T[], fresh: readonly T[], boxes: (item: T) => Box[]) => {
    if (old === fresh) return;
    const [was, is] = [new Set(old), new Set(fresh)];
    for (const item of [...old, ...fresh])
      if (!was.has(item) || !is.has(item)) for (const box of boxes(item)) changed.add(box);
  };
  compare(before.parts, now.parts, (part) => partBoxes(part, catalogue));
  compare(before.wires, now.wires, wireBoxes);
  compare(before.labels, now.labels, ({ at }) => [spanned(at, at)]);
  compare(before.notes, now.notes, (note) => [noteBox(note)]);
  return changed;
}

/** A part's body and its leads. */
function partBoxes(part: Part, catalogue: Catalogue): Box[] {
  const body = bodyOf(part, catalogue);
  const leads = pinsOf(part, catalogue).map(({ at }) =>
    grown(spanned(at, nearestIn(body, at)), WIRE_HALF),
  );
  return [grown(body, 0.2), ...leads];
}

const wireBoxes = ({ points }: Wire): Box[] =>
  segmentsOf(points).map(([a, b]) => grown(spanned(a, b), WIRE_HALF));

function takenBy(heads: Arrow[]): Space {
  const taken = new Space();
  for (const arrow of heads) taken.add(arrowBox(arrow));
  return taken;
}

/** The wires and pins of a node, for lighting it up. */
export function nodeWires(
  nets: Evaluation["nets"] | undefined,
  quantity: string | null,
): Set<string> {
  const net = quantity && nets?.find((candidate) => `V_${candidate.name}` === quantity);
  return new Set(net ? net.wires : []);
}

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
