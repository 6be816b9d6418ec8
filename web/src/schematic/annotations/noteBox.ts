// The room a text note takes on the sheet.
import type { Point } from "../../api/types";
import type { Box } from "../model/geometry";

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
