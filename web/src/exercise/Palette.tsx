// The command palette: everything that can be done here, by name, with its shortcut beside it.
import { Command } from "cmdk";
import { useEffect, useState } from "react";
import { useLocation } from "wouter";
import { turnTo } from "../document/address";
import { undoFurther } from "../document/saving";
import { useExercise } from "../document/store";
import type { Layers } from "../schematic/annotations/notes";
import {
  align,
  duplicate,
  mirror,
  remove,
  renumber,
  space,
  startPlacingKind,
  startWire,
  take,
  turn,
} from "../schematic/hand/actions";
import { enterBlock, makeBlock } from "../schematic/hand/blocks";
import { useCatalogue } from "../schematic/hand/catalogue";
import { focusSheet } from "../schematic/hand/focus";
import { useHand } from "../schematic/hand/tools";
import { Keys } from "../ui/Hint";
import { usePreferences } from "../ui/theme";

interface Entry {
  name: string;
  keys?: string;
  run(): void;
}

function useEntries(): Entry[] {
  const catalogue = useCatalogue();
  const [, go] = useLocation();
  const { theme, symbols, set } = usePreferences();
  const { set: setHand, layers, chosen } = useHand();
  const inside = useExercise((state) => state.inside);
  const flip = (layer: keyof Layers) => () =>
    setHand({ layers: { ...layers, [layer]: !layers[layer] } });
  const held: Entry[] = [
    { name: "Turn what is chosen", keys: "R", run: () => turn(catalogue) },
    { name: "Mirror what is chosen", keys: "M", run: () => mirror(catalogue) },
    { name: "Duplicate what is chosen", keys: "Ctrl D", run: () => duplicate(catalogue) },
    { name: "Align what is chosen in a row", run: () => align("row", catalogue) },
    { name: "Align what is chosen in a column", run: () => align("column", catalogue) },
    { name: "Space what is chosen evenly", run: () => space(catalogue) },
    { name: "Make a block of what is chosen", run: () => void makeBlock(catalogue) },
    { name: "Remove what is chosen", keys: "Delete", run: () => remove(catalogue) },
    {
      name: "Remove what is chosen, wires joined",
      keys: "Shift Delete",
      run: () => remove(catalogue, true),
    },
  ];
  return [
    { name: "Undo", keys: "Ctrl Z", run: () => void undoFurther() },
    { name: "Redo", keys: "Ctrl Y", run: () => useExercise.getState().redo() },
    ...(chosen.size ? held : []),
    ...[...catalogue.values()].map((kind) => ({
      name: `Place ${kind.label.toLowerCase()}`,
      run: () => startPlacingKind(kind),
    })),
    { name: "Type to place", keys: "any letter or digit", run: () => setHand({ typed: "" }) },
    { name: "Draw a wire", keys: "W", run: () => startWire(null) },
    { name: "Name a node", run: () => take({ kind: "naming" }) },
    { name: "Write a note", run: () => take({ kind: "noting" }) },
    { name: "Number the parts anew, in reading order", run: () => renumber(catalogue) },
    ...(inside ? [{ name: "Back to the exercise", run: () => enterBlock(null) }] : []),
    { name: `${layers.voltage ? "Hide" : "Show"} voltages`, run: flip("voltage") },
    { name: `${layers.current ? "Hide" : "Show"} currents`, run: flip("current") },
    { name: `${layers.power ? "Hide" : "Show"} powers`, run: flip("power") },
    {
      name: theme === "dark" ? "Light theme" : "Dark theme",
      run: () => set({ theme: theme === "dark" ? "light" : "dark" }),
    },
    {
      name: symbols === "iec" ? "Symbols as in IEEE Std 315" : "Symbols as in IEC 60617",
      run: () => set({ symbols: symbols === "iec" ? "ieee" : "iec" }),
    },
    { name: "Turn to Predict", run: () => turnTo("predict") },
    { name: "Turn to Simulate", run: () => turnTo("simulate") },
    { name: "Turn to Compare", run: () => turnTo("compare") },
    { name: "Back to the notebook", run: () => go("/") },
  ];
}

export function Palette() {
  const [open, setOpen] = useState(false);
  const entries = useEntries();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "k") return;
      event.preventDefault();
      setOpen((now) => !now);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  if (!open) return null;
  const close = () => {
    setOpen(false);
    focusSheet();
  };
  return (
    <Command
      label="Commands"
      onKeyDown={(event) => event.key === "Escape" && close()}
      onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && setOpen(false)}
      className="fixed top-24 left-1/2 z-40 w-[26rem] -translate-x-1/2 overflow-hidden rounded-xl border border-hairline bg-raised shadow-card"
    >
      <Command.Input
        autoFocus
        placeholder="What do you want to do?"
        className="block w-full border-b border-hairline bg-transparent px-4 py-3 text-base placeholder:text-soft focus:outline-none"
      />
      <Command.List className="max-h-80 overflow-y-auto p-1">
        <Command.Empty className="px-3 py-2 text-sm text-soft">
          Nothing here is called that.
        </Command.Empty>
        {entries.map((entry) => (
          <Command.Item
            key={entry.name}
            onSelect={() => {
              close();
              entry.run();
            }}
            className="flex cursor-pointer items-center rounded-md px-3 py-1.5 text-sm data-[selected=true]:bg-accent-wash"
          >
            <span className="grow">{entry.name}</span>
            {entry.keys && <Keys>{entry.keys}</Keys>}
          </Command.Item>
        ))}
      </Command.List>
    </Command>
  );
}
