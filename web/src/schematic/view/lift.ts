// What is in the hand while things are dragged, apart from what lies still: only that is drawn anew.
import { useMemo, useRef } from "react";
import type { Point, Schematic } from "../../api/types";
import { carried } from "../annotations/annotate";
import type { Annotations } from "../annotations/notes";

const NOTHING: ReadonlySet<string> = new Set();

export interface Lift {
  /** Everything that is not where it was, wires that follow too, where it is now. */
  drawing: Schematic;
  /** Their texts, carried along. */
  annotations: Annotations;
}

interface Dragging {
  ids: ReadonlySet<string>;
  step: Point;
}

/** What is lifted, its ids as they are in the drawing, and the texts of what lies still. */
export function useLift(
  schematic: Schematic,
  preview: Schematic,
  laid: Annotations,
  dragging: Dragging | null,
): { lift: Lift | null; ids: ReadonlySet<string>; still: Annotations } {
  const kept = useRef(NOTHING);
  const drawing = useMemo(
    () => (dragging && preview !== schematic ? changed(schematic, preview) : null),
    [schematic, preview, dragging],
  );
  const ids = drawing ? sameSet(kept.current, idsOf(schematic, preview)) : NOTHING;
  kept.current = ids;
  const still = useMemo(
    () =>
      ids.size
        ? {
            notes: laid.notes.filter((note) => !note.owner || !ids.has(note.owner)),
            arrows: laid.arrows.filter((arrow) => !ids.has(arrow.part.id)),
          }
        : laid,
    [laid, ids],
  );
  if (!drawing || !dragging) return { lift: null, ids, still: laid };
  const own = {
    notes: laid.notes.filter((note) => note.owner && ids.has(note.owner)),
    arrows: laid.arrows.filter((arrow) => ids.has(arrow.part.id)),
  };
  return {
    lift: { drawing, annotations: carried(own, dragging.ids, dragging.step) },
    ids,
    still,
  };
}

/** The things of `now` that are not as in `before`. */
function changed(before: Schematic, now: Schematic): Schematic {
  const fresh = <T>(old: readonly T[], list: readonly T[]) => {
    const known = new Set(old);
    return list.filter((item) => !known.has(item));
  };
  return {
    ...now,
    parts: fresh(before.parts, now.parts),
    wires: fresh(before.wires, now.wires),
    labels: fresh(before.labels, now.labels),
    notes: fresh(before.notes, now.notes),
  };
}

/** What of `before` is not in `now` as it was. */
function idsOf(before: Schematic, now: Schematic): ReadonlySet<string> {
  const gone = changed(now, before);
  return new Set(
    [...gone.parts, ...gone.wires, ...gone.labels, ...gone.notes].map((item) => item.id),
  );
}

const sameSet = (kept: ReadonlySet<string>, now: ReadonlySet<string>) =>
  kept.size === now.size && [...now].every((id) => kept.has(id)) ? kept : now;
