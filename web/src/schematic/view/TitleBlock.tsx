// The title block at the foot of a drawing: what it is, whose, which and when.
import { useShallow } from "zustand/react/shallow";
import { useExercise } from "../../document/store";
import type { Box } from "../model/geometry";

const WIDTH = 44;
const ROW = 2.6;
const GAP = 4;

export function TitleBlock({ drawn }: { drawn: Box | null }) {
  const { title, author, group, number } = useExercise(
    useShallow(({ document: { title, author, group, number } }) => ({
      title,
      author,
      group,
      number,
    })),
  );
  if (!drawn) return null;
  const left = Math.max(drawn.right - WIDTH, drawn.left);
  const top = Math.round(drawn.bottom) + GAP;
  const date = new Date().toISOString().slice(0, 10);
  const cells = [
    { x: 0, y: 0, width: 34, label: "Title", text: title || "Untitled" },
    { x: 34, y: 0, width: 10, label: "Number", text: number },
    { x: 0, y: 1, width: 18, label: "Author", text: author },
    { x: 18, y: 1, width: 16, label: "Group", text: group },
    { x: 34, y: 1, width: 10, label: "Date", text: date },
  ];
  return (
    <g data-title-block aria-label="Title block">
      {cells.map((cell) => (
        <g key={cell.label}>
          <rect
            x={left + cell.x}
            y={top + cell.y * ROW}
            width={cell.width}
            height={ROW}
            fill="var(--paper)"
            stroke="var(--ink)"
            strokeWidth={0.1}
          />
          <text
            x={left + cell.x + 0.5}
            y={top + cell.y * ROW + 0.85}
            fontSize={0.75}
            fill="var(--ink-soft)"
          >
            {cell.label}
          </text>
          <text
            className="tone-value"
            x={left + cell.x + 0.5}
            y={top + cell.y * ROW + 2.1}
            fontSize={1.15}
            textLength={cell.text.length * 0.62 > cell.width - 1 ? cell.width - 1 : undefined}
            lengthAdjust="spacingAndGlyphs"
          >
            {cell.text}
          </text>
        </g>
      ))}
    </g>
  );
}
