// What is done to an exercise as a whole: told once, for its keys, its head, its menu and the palette.
import { useMemo } from "react";
import { useLocation } from "wouter";
import { undoFurther } from "../document/saving";
import { useExercise } from "../document/store";
import { useEditorStore } from "../schematic/editor/tools";
import { savePicture } from "../schematic/view/picture";
import type { Command } from "../ui/commands";
import { usePreferences } from "../ui/theme";
import { downloadAs, duplicateExercise } from "./documentActions";
import { openPanel } from "./panels";

export const undo: Command = {
  name: "Undo",
  keys: "Ctrl Z",
  words: ["back"],
  run: () => void undoFurther(),
};

export const redo: Command = {
  name: "Redo",
  keys: "Ctrl Y",
  also: ["Ctrl Shift Z"],
  run: () => useExercise.getState().redo(),
};

export const revisions: Command = {
  name: "Earlier versions",
  words: ["history", "revisions", "restore"],
  run: () => openPanel("revisions"),
};

const details: Command = {
  name: "Title, author, purpose",
  words: ["details", "properties", "group", "number"],
  run: () => openPanel("details"),
};

const title = () => useExercise.getState().document.title;

/** Of the menu in the head of the exercise. */
export function useDocumentCommands(): Command[] {
  const [, go] = useLocation();
  return useMemo(
    () => [
      details,
      {
        name: "Duplicate the exercise",
        words: ["copy", "save as"],
        run: () => void duplicateExercise(go),
      },
      {
        name: "Download as a file",
        words: ["export", "save", "JSON"],
        run: () => downloadAs("file"),
      },
      {
        name: "Download as netlist text",
        words: ["export", "circuit"],
        run: () => downloadAs("netlist"),
      },
      ...(["svg", "png"] as const).map((type) => ({
        name: `Picture of the schematic, ${type.toUpperCase()}`,
        words: ["export", "image"],
        run: () => void savePicture(type, title()),
      })),
    ],
    [go],
  );
}

/** What is turned over: `theme`, `symbols` and the `block` that says what the drawing is. */
export function useLooks(): Record<"theme" | "symbols" | "block", Command> {
  const { theme, symbols, set } = usePreferences();
  const layers = useEditorStore((state) => state.layers);
  const other = { theme: theme === "dark" ? "light" : "dark" } as const;
  return {
    theme: {
      name: other.theme === "dark" ? "Dark theme" : "Light theme",
      words: ["projector", "colours", "night"],
      run: () => set(other),
    },
    symbols: {
      name: symbols === "iec" ? "US symbols" : "IEC symbols",
      words: ["IEEE 315", "IEC 60617", "zigzag", "ANSI"],
      run: () => set({ symbols: symbols === "iec" ? "ieee" : "iec" }),
    },
    block: {
      name: layers.title ? "Hide the title block" : "Show the title block",
      words: ["drawing", "figures", "values"],
      run: () => useEditorStore.getState().set({ layers: { ...layers, title: !layers.title } }),
    },
  };
}
