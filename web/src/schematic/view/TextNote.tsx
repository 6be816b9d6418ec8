// A text written on the drawing; what stands between dollar signs is typeset as a formula.
import { memo } from "react";
import type { Note } from "../../api/types";
import { Formula } from "../../ui/Formula";
import { noteBox } from "../annotations/noteBox";

const SHRUNK = 1.25 / 20; // grid units for a pixel of the text as it is set, 20 px high

export const TextNote = memo(function TextNote({ note, chosen }: { note: Note; chosen: boolean }) {
  const { left, top, right, bottom } = noteBox(note);
  return (
    <g
      className="part"
      role="button"
      aria-label={`Note: ${note.text || "empty"}`}
      aria-pressed={chosen}
      tabIndex={0}
      data-id={note.id}
      data-role="part"
      data-chosen={chosen}
    >
      <rect
        className="halo"
        x={left - 0.4}
        y={top - 0.2}
        width={right - left + 0.8}
        height={bottom - top + 0.4}
        rx={0.4}
      />
      <foreignObject
        x={left}
        y={top}
        width={right - left}
        height={bottom - top}
        pointerEvents="none"
        overflow="visible"
      >
        {/* Set large and shrunk: no line of a formula can be thinner than a pixel. */}
        <div
          className="note-text"
          style={{ transform: `scale(${SHRUNK})`, width: (right - left) / SHRUNK }}
        >
          {note.text.split("\n").map((line, row) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines have no identity but their place
            <p key={row}>{pieces(line)}</p>
          ))}
        </div>
      </foreignObject>
    </g>
  );
});

function pieces(line: string) {
  return line.split("$").map((piece, i) => (i % 2 ? <Formula key={piece} latex={piece} /> : piece));
}
