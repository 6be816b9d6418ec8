// Everything written on the drawing: names, values, figures, arrows.
import { memo, useMemo } from "react";
import type { Annotations, Note } from "../annotations/notes";
import { sameNote, TEXT } from "../annotations/notes";
import { useEditorStore } from "../editor/tools";
import { Grouped } from "./Grouped";
import { SIZE } from "./measure";

const point = (quantity: string | null) => useEditorStore.getState().set({ hovered: quantity });

export const Notes = memo(function Notes({
  annotations,
  hovered,
  hues,
}: {
  annotations: Annotations;
  hovered: string | null;
  hues: ReadonlyMap<string, number>;
}) {
  const arrows = useMemo(
    () =>
      annotations.arrows
        .filter((arrow) => arrow.flow)
        .map(({ quantity, at: [x, y], towards: [dx, dy] }) => ({
          id: quantity,
          x,
          y,
          dx,
          dy,
          lit: hovered === quantity,
        })),
    [annotations.arrows, hovered],
  );
  const notes = annotations.notes.map((note) => ({
    id: note.id,
    note,
    lit: note.quantity !== null && note.quantity === hovered,
    hue: note.quantity === null ? undefined : hues.get(note.quantity),
  }));
  return (
    <>
      <Grouped items={arrows} Draw={ArrowHead} />
      <Grouped items={notes} Draw={Written} />
    </>
  );
});

interface ArrowHeadProps {
  id: string;
  x: number;
  y: number;
  dx: number;
  dy: number;
  lit: boolean;
}

const ArrowHead = memo(function ArrowHead({ id, x, y, dx, dy, lit }: ArrowHeadProps) {
  return (
    <path
      data-arrow={id}
      d={`M${x + 0.55 * dx} ${y + 0.55 * dy}L${x - 0.4 * dx - 0.42 * dy} ${y - 0.4 * dy + 0.42 * dx}L${x - 0.4 * dx + 0.42 * dy} ${y - 0.4 * dy - 0.42 * dx}Z`}
      fill={lit ? "var(--accent)" : "var(--simulated)"}
      pointerEvents="none"
    />
  );
});

interface WrittenProps {
  id: string;
  note: Note;
  lit: boolean;
  hue: number | undefined;
}

const Written = memo(
  function Written({ note, lit, hue }: WrittenProps) {
    const { left, top, right, bottom } = note.box;
    const x = note.align === "start" ? left : note.align === "end" ? right : (left + right) / 2;
    return (
      <g
        className="note"
        data-note={note.id}
        data-id={note.owner ?? undefined}
        data-role={note.owner ? "note" : undefined}
        data-opens={note.owner !== null}
        data-lit={lit}
        data-left={left}
        data-top={top}
        onPointerEnter={() => note.quantity && point(note.quantity)}
        onPointerLeave={() => note.quantity && point(null)}
      >
        {note.leader && (
          <line
            x1={note.leader[0][0]}
            y1={note.leader[0][1]}
            x2={note.leader[1][0]}
            y2={note.leader[1][1]}
            stroke="var(--edge)"
            strokeWidth={0.08}
            pointerEvents="none"
          />
        )}
        {(note.flag || lit) && (
          <rect
            className={note.flag ? "plate flag" : "plate"}
            x={left - 0.15}
            y={top}
            width={right - left + 0.3}
            height={bottom - top}
            rx={0.3}
          />
        )}
        {hue !== undefined && (
          <line
            x1={left}
            x2={right}
            y1={bottom}
            y2={bottom}
            stroke={`var(--curve-${hue})`}
            strokeWidth={0.25}
          />
        )}
        {note.lines.map(([first, ...more], row) => (
          <text
            key={[first, ...more].map((piece) => piece?.tone).join(" ")}
            className={`tone-${first?.tone}`}
            fontSize={first && SIZE[first.tone]}
            x={x}
            y={top + TEXT * row + 0.74 * TEXT}
            textAnchor={note.align}
          >
            {first?.text}
            {more.map((piece) => (
              <tspan
                key={piece.tone}
                className={`tone-${piece.tone}`}
                fontSize={SIZE[piece.tone]}
                dx={0.4}
              >
                {piece.text}
              </tspan>
            ))}
          </text>
        ))}
      </g>
    );
  },
  // Notes are laid out anew after every edit, and mostly come out as they were.
  (before, now) =>
    before.lit === now.lit && before.hue === now.hue && sameNote(before.note, now.note),
);
