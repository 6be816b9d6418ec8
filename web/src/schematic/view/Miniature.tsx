// A schematic small enough for a card: strokes and wires, no text.
import type { Point, Schematic } from "../../api/types";
import { type Catalogue, extent, grown, kindOf } from "../model/geometry";
import { PartSymbol } from "./Symbol";

interface Props {
  schematic: Schematic;
  joints: Point[];
  catalogue: Catalogue;
}

export function Miniature({ schematic, joints, catalogue }: Props) {
  const box = extent(schematic, catalogue);
  if (!box || !catalogue.size) return null;
  const { left, top, right, bottom } = grown(box, 1.5);
  return (
    <svg
      aria-hidden="true"
      className="miniature h-full w-full"
      viewBox={`${left} ${top} ${right - left} ${bottom - top}`}
      preserveAspectRatio="xMidYMid meet"
    >
      {schematic.wires.map((wire) => (
        <polyline key={wire.id} className="wire" points={wire.points.join(" ")} />
      ))}
      {schematic.parts.map((part) => (
        <PartSymbol key={part.id} kind={kindOf(part, catalogue)} part={part} />
      ))}
      {joints.map(([x, y]) => (
        <circle key={`${x},${y}`} className="solid" cx={x} cy={y} r={0.36} />
      ))}
    </svg>
  );
}
