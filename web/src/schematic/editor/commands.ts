// Everything that is done to the sheet by name: told once, for its keys, menus, bars and the palette.
import { useMemo } from "react";
import type { Command } from "../../ui/commands";
import type { Catalogue } from "../model/geometry";
import { openSheet } from "../model/openSheet";
import {
  align,
  chooseAll,
  duplicate,
  mirror,
  remove,
  renumber,
  space,
  startWire,
  take,
  turn,
} from "./actions";
import { makeBlock } from "./blocks";
import { useCatalogue } from "./catalogue";
import { copyByMenu, pasteByMenu } from "./clipboard";
import { useEditorStore } from "./tools";

export interface SheetCommand extends Command {
  group: "Selection" | "Draw" | "View";
  /** Whether its key means it now; always, where this is not told. */
  isMeant?(): boolean;
}

const hand = () => useEditorStore.getState();
const isHolding = () => hand().tool.kind === "placing" || hand().chosen.size > 0;
const isIdle = () => hand().tool.kind === "idle";
const never = () => false; // the browser tells of these keys by events of their own

const ZOOM = 1.25;

export function sheetCommands(catalogue: Catalogue) {
  const selection = (name: string, run: () => void, more: Partial<SheetCommand> = {}) =>
    ({ group: "Selection", name, run, ...more }) as SheetCommand;
  const draw = (name: string, run: () => void, more: Partial<SheetCommand> = {}) =>
    ({ group: "Draw", name, run, ...more }) as SheetCommand;
  const view = (name: string, keys: string, run: () => void, words: string[]) =>
    ({ group: "View", name, keys, run, words }) as SheetCommand;
  return {
    rotate: selection("Rotate", () => turn(catalogue), {
      keys: "R",
      words: ["turn"],
      isMeant: isHolding,
    }),
    mirror: selection("Mirror", () => mirror(catalogue), {
      keys: "M",
      words: ["flip"],
      isMeant: isHolding,
    }),
    copy: selection("Copy", () => copyByMenu(catalogue), { keys: "Ctrl C", isMeant: never }),
    duplicate: selection("Duplicate", () => duplicate(catalogue), {
      keys: "Ctrl D",
      words: ["copy"],
    }),
    row: selection("Align in a row", () => align("row", catalogue)),
    column: selection("Align in a column", () => align("column", catalogue)),
    space: selection("Space evenly", () => space(catalogue), { words: ["distribute"] }),
    block: selection("Make a block", () => void makeBlock(catalogue), {
      words: ["subcircuit", "group"],
    }),
    remove: selection("Remove", () => remove(catalogue), {
      keys: "Delete",
      also: ["Backspace"],
      words: ["delete", "erase"],
    }),
    rejoin: selection("Remove and join the wires", () => remove(catalogue, true), {
      keys: "Shift Delete",
      also: ["Shift Backspace"],
      words: ["delete"],
    }),
    wire: draw("Draw a wire", () => startWire(hand().byKeys ? hand().cursor : null), {
      keys: "W",
      words: ["connect"],
      isMeant: isIdle,
    }),
    name: draw("Name a node", () => take({ kind: "naming" }), {
      words: ["label", "net", "rename"],
    }),
    note: draw("Write a note", () => take({ kind: "noting" }), {
      words: ["text", "comment", "annotation"],
    }),
    type: draw("Type to place", () => hand().set({ typed: "", card: null }), {
      keys: "any letter or digit",
      words: ["value", "part"],
    }),
    paste: draw("Paste", () => void pasteByMenu(catalogue), { keys: "Ctrl V", isMeant: never }),
    all: draw("Select all", chooseAll, { keys: "Ctrl A" }),
    renumber: draw("Renumber parts", () => renumber(catalogue), {
      words: ["number", "names", "order"],
    }),
    fit: view("Fit the drawing", "Home", () => openSheet()?.fit(), ["whole", "zoom"]),
    closer: view("Zoom in", "+", () => openSheet()?.zoom(ZOOM), ["closer", "larger"]),
    farther: view("Zoom out", "-", () => openSheet()?.zoom(1 / ZOOM), ["smaller"]),
  };
}

export type SheetCommands = ReturnType<typeof sheetCommands>;

export function useSheetCommands(): SheetCommands {
  const catalogue = useCatalogue();
  return useMemo(() => sheetCommands(catalogue), [catalogue]);
}
