// What the hand is at, over the drawing: the wire being drawn, what is about to be placed, the bench's clips.
import type { Part, Point, Schematic } from "../../api/types";
import type { Annotations } from "../annotations/notes";
import { wayTo } from "../editor/actions";
import { useCatalogue } from "../editor/catalogue";
import { type Tool, useEditorStore } from "../editor/tools";
import { joinsAt } from "../model/edits";
import { kindOf } from "../model/geometry";
import { Clips } from "./Clips";
import { Sweep } from "./Sweep";
import { PartSymbol } from "./Symbol";

interface Props {
  /** The drawing as it is while something is dragged. */
  preview: Schematic;
  written: Annotations["notes"];
}

export function AtHand({ preview, written }: Props) {
  const catalogue = useCatalogue();
  const tool = useEditorStore((state) => state.tool);
  const cursor = useEditorStore((state) => state.cursor);
  const byKeys = useEditorStore((state) => state.byKeys);
  const focusedFinding = useEditorStore((state) => state.focusedFinding);
  const wiring = tool.kind === "wiring" ? wayTo(tool.points, cursor, catalogue) : [];
  const willJoin =
    (tool.kind === "wiring" || tool.kind === "naming") && joinsAt(preview, cursor, catalogue);
  const ghost = ghostOf(tool, cursor);
  return (
    <>
      {focusedFinding?.points.map(([x, y]) => (
        <circle
          key={`${x},${y}`}
          cx={x}
          cy={y}
          r={1.1}
          fill="none"
          stroke="var(--fault)"
          strokeWidth={0.25}
        />
      ))}
      <Clips schematic={preview} catalogue={catalogue} written={written.map(({ box }) => box)} />
      {wiring.length > 1 && (
        <polyline
          points={wiring.join(" ")}
          fill="none"
          stroke="var(--accent)"
          strokeWidth={0.2}
          strokeDasharray={willJoin ? undefined : "0.6 0.4"}
        />
      )}
      {willJoin && (
        <g stroke="var(--accent)" fill="none">
          <circle cx={cursor[0]} cy={cursor[1]} r={0.9} strokeWidth={0.22} />
          <circle cx={cursor[0]} cy={cursor[1]} r={0.34} fill="var(--accent)" />
        </g>
      )}
      {ghost && (
        <g opacity={0.65} pointerEvents="none">
          <PartSymbol kind={kindOf(ghost, catalogue)} part={ghost} />
        </g>
      )}
      {tool.kind === "sweeping" && <Sweep from={tool.from} to={tool.to} />}
      {(byKeys || tool.kind === "wiring") && !willJoin && (
        <path
          d={`M${cursor[0] - 1} ${cursor[1]}h2M${cursor[0]} ${cursor[1] - 1}v2`}
          stroke="var(--accent)"
          strokeWidth={0.16}
          pointerEvents="none"
        />
      )}
    </>
  );
}

type Ghost = Pick<Part, "at" | "rotation" | "mirror" | "kind" | "block">;

function ghostOf(tool: Tool, at: Point): Ghost | null {
  if (tool.kind !== "placing") return null;
  const { placement, rotation, mirror } = tool;
  const [kind = "", block = ""] = (placement.kind ?? "").split(" ");
  return { kind, block, at, rotation, mirror };
}
