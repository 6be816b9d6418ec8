// A part where it stands: its symbol, and the place to press, focus and hear it.
import type { Part } from "../api/types";
import { useCatalogue } from "./catalogue";
import { bodyOf, grown, kindOf } from "./geometry";
import { PartSymbol } from "./Symbol";
import { useHand } from "./tools";

interface PlacedPartProps {
  part: Part;
  description: string;
  chosen: boolean;
  lit: boolean;
  pointed: boolean;
}

export function PlacedPart({ part, description, chosen, lit, pointed }: PlacedPartProps) {
  const catalogue = useCatalogue();
  const box = grown(bodyOf(part, catalogue), 0.5);
  return (
    <g
      className="part"
      role="button"
      aria-label={description}
      aria-pressed={chosen}
      tabIndex={0}
      data-id={part.id}
      data-role="part"
      data-chosen={chosen}
      data-lit={lit}
      data-pointed={pointed}
      onFocus={() => {
        // A press has chosen already, perhaps several; a focus that came by key chooses this one.
        if (useHand.getState().tool.kind === "idle") useHand.getState().choose([part.id]);
      }}
      onPointerEnter={() => useHand.getState().set({ lit: `I_${part.name}` })}
      onPointerLeave={() => useHand.getState().set({ lit: null })}
    >
      <rect
        className="halo"
        x={box.left}
        y={box.top}
        width={box.right - box.left}
        height={box.bottom - box.top}
        rx={0.4}
      />
      <PartSymbol kind={kindOf(part, catalogue)} part={part} />
    </g>
  );
}
