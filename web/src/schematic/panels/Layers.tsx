// Which figures are drawn on the sheet, and how close it is looked at.
import { Maximize, Minus, Plus } from "lucide-react";
import { Toggle } from "radix-ui";
import { IconButton } from "../../ui/Button";
import type { Layers as Shown } from "../annotations/notes";
import { useHand } from "../hand/tools";
import type { SheetWishes } from "../model/view";

const NAMES: Record<keyof Shown, string> = {
  voltage: "Voltages",
  current: "Currents",
  power: "Powers",
  title: "Title",
};

export function LayerSwitches() {
  const layers = useHand((state) => state.layers);
  const set = useHand((state) => state.set);
  return (
    <div
      role="group"
      aria-label="Figures on the drawing"
      className="flex items-center gap-0.5 rounded-lg border border-hairline bg-raised/95 p-0.5 text-sm"
    >
      {(Object.keys(NAMES) as (keyof Shown)[]).map((layer) => (
        <Toggle.Root
          key={layer}
          pressed={layers[layer]}
          onPressedChange={(on) => set({ layers: { ...layers, [layer]: on } })}
          className="flex h-8 items-center gap-1.5 rounded-md px-2.5 text-soft hover:bg-ruling data-[state=on]:text-simulated"
        >
          <span
            aria-hidden="true"
            className={`size-2.5 rounded-full border border-current ${layers[layer] ? "bg-current" : ""}`}
          />
          {NAMES[layer]}
        </Toggle.Root>
      ))}
    </div>
  );
}

export function ZoomButtons({ wishes }: { wishes: SheetWishes | null }) {
  return (
    <div className="absolute right-3 bottom-3 flex rounded-lg border border-hairline bg-raised/95">
      <IconButton label="Zoom out" shortcut="-" onClick={() => wishes?.zoom(0.8)}>
        <Minus size={16} />
      </IconButton>
      <IconButton label="Fit the drawing" shortcut="Home" onClick={() => wishes?.fit()}>
        <Maximize size={16} />
      </IconButton>
      <IconButton label="Zoom in" shortcut="+" onClick={() => wishes?.zoom(1.25)}>
        <Plus size={16} />
      </IconButton>
    </div>
  );
}
