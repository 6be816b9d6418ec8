// The drawing by what is seen of it: its values are told by the look, and change nothing else on the sheet.
import { useRef } from "react";
import type { Part, Schematic } from "../../api/types";
import { sheetOf, useExercise } from "../../document/store";

/** The open drawing, the very same as long as only values in it change. */
export function useShape(): Schematic {
  const kept = useRef<Schematic | null>(null);
  return useExercise(({ document, inside }) => {
    const now = sheetOf(document, inside);
    if (!kept.current || !sameShape(kept.current, now)) kept.current = now;
    return kept.current;
  });
}

function sameShape(before: Schematic, now: Schematic): boolean {
  return (
    before === now ||
    (before.wires === now.wires &&
      before.labels === now.labels &&
      before.notes === now.notes &&
      before.junctions === now.junctions &&
      before.parts.length === now.parts.length &&
      before.parts.every((part, i) => {
        const other = now.parts[i] as Part;
        return part === other || SEEN.every((field) => part[field] === other[field]);
      }))
  );
}

const SEEN = [
  "id",
  "kind",
  "block",
  "name",
  "at",
  "rotation",
  "mirror",
  "caption",
  "form",
] as const;
