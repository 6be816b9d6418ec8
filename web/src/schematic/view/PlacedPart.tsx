// A part where it stands: its symbol, and the place to press, focus and hear it.
import { memo } from "react";
import type { CaseChange, Kind, Part } from "../../api/types";
import { useCatalogue } from "../editor/catalogue";
import { useEditorStore } from "../editor/tools";
import { bodyAs, grown, pinsOf } from "../model/geometry";
import { PartSymbol, PartTexts } from "./Symbol";

interface PlacedPartProps {
  id: string;
  part: Part;
  kind: Kind | undefined;
  description: string;
  chosen: boolean;
  lit: boolean;
  pointed: boolean;
  lifted: boolean;
  /** What the case that is looked at does with it. */
  inCase: CaseChange["does"] | undefined;
}

export const PlacedPart = memo(function PlacedPart(props: PlacedPartProps) {
  const { part, kind, description, chosen, lit, pointed, lifted, inCase } = props;
  const box = grown(bodyAs(part, kind), 0.5);
  return (
    <>
      <g
        className="part"
        opacity={lifted ? 0 : undefined}
        role="button"
        aria-label={description}
        aria-pressed={chosen}
        tabIndex={0}
        data-id={part.id}
        data-role="part"
        data-chosen={chosen}
        data-lit={lit}
        data-pointed={pointed}
        data-case={inCase}
        onFocus={() => {
          // A press has chosen already, perhaps several; a focus that came by key chooses this one.
          if (useEditorStore.getState().tool.kind === "idle")
            useEditorStore.getState().choose([part.id]);
        }}
        onPointerEnter={() => useEditorStore.getState().set({ hovered: `I_${part.name}` })}
        onPointerLeave={() => useEditorStore.getState().set({ hovered: null })}
      >
        <rect
          className="halo"
          x={box.left}
          y={box.top}
          width={box.right - box.left}
          height={box.bottom - box.top}
          rx={0.4}
        />
        <PartSymbol kind={kind} part={part} texts={false} />
      </g>
      {inCase === "short" && !lifted && <Bridge part={part} />}
      {!lifted && <PartTexts kind={kind} part={part} />}
    </>
  );
});

/** A wire where a part is shorted. */
function Bridge({ part }: { part: Part }) {
  const catalogue = useCatalogue();
  const points = pinsOf(part, catalogue).map(({ at }) => at.join());
  return <polyline className="bridge" points={points.join(" ")} />;
}
