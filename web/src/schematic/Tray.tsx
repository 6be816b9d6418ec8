// The few things most often wanted, at the head of the sheet.
import { Keyboard, Spline, Tag } from "lucide-react";
import { Hint } from "../ui/Hint";
import { startPlacingKind, startWire } from "./actions";
import { useCatalogue } from "./catalogue";
import { Thumbnail } from "./PlaceBox";
import { useHand } from "./tools";

const cell =
  "flex h-9 min-w-11 items-center justify-center rounded-md px-1.5 hover:bg-ruling aria-pressed:bg-accent-wash";

export function Tray() {
  const catalogue = useCatalogue();
  const tool = useHand((state) => state.tool);
  const set = useHand((state) => state.set);
  const placing = tool.kind === "placing" ? tool.placement.kind : null;
  return (
    <div
      role="toolbar"
      aria-label="Parts and wires"
      className="absolute top-3 left-1/2 z-10 flex -translate-x-1/2 items-center gap-0.5 rounded-xl border border-hairline bg-raised/95 p-1 shadow-card"
    >
      {[...catalogue.values()].map((kind) => (
        <Hint key={kind.kind} text={kind.label}>
          <button
            type="button"
            aria-label={`Place ${kind.label.toLowerCase()}`}
            aria-pressed={placing === kind.kind}
            className={cell}
            onClick={() => startPlacingKind(kind)}
          >
            <Thumbnail kind={kind.kind} />
          </button>
        </Hint>
      ))}
      <span className="mx-1 h-6 w-px bg-hairline" />
      <Hint text="Wire" shortcut="W">
        <button
          type="button"
          aria-label="Draw a wire"
          aria-pressed={tool.kind === "wiring"}
          className={cell}
          onClick={() => startWire(null)}
        >
          <Spline size={18} />
        </button>
      </Hint>
      <Hint text="Name the node under the cursor">
        <button
          type="button"
          aria-label="Name a node"
          aria-pressed={tool.kind === "naming"}
          className={cell}
          onClick={() => set({ tool: { kind: "naming" }, card: null })}
        >
          <Tag size={18} />
        </button>
      </Hint>
      <span className="mx-1 h-6 w-px bg-hairline" />
      <Hint text="Or just type on the sheet: 4k7, 5V, 2mA, gnd, a name">
        <button
          type="button"
          aria-label="Type to place, as in 4k7"
          className={`${cell} gap-1.5 text-sm text-soft`}
          onClick={() => set({ typed: "", card: null })}
        >
          <Keyboard size={18} />
          <span className="figure text-ink">4k7</span>
        </button>
      </Hint>
    </div>
  );
}
