// The sheet by keyboard: arrows point, letters and digits place, w wires, Enter does what is under way.
import { useEffect, useRef } from "react";
import type { Point } from "../../api/types";
import { isKeyOf } from "../../ui/commands";
import { allPins, type Catalogue } from "../model/geometry";
import { askName, drawing, noteAt, placeAt, shift, wireTo } from "./actions";
import { type SheetCommand, sheetCommands } from "./commands";
import { focusCard, focusSheet, isForSheet } from "./focus";
import { useEditorStore } from "./tools";

const STEPS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
const STRIDE = 5; // grid units an arrow key goes with Shift

/** The keys that go to the sheet, wherever on the page they are pressed. */
export function useSheetKeys(catalogue: Catalogue): void {
  const now = useRef(catalogue);
  now.current = catalogue;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const { tool, card } = useEditorStore.getState();
      if (!isForSheet(event, tool.kind !== "idle")) return;
      // What is typed while a card is open is meant for it.
      if (card && event.key.length === 1 && !event.ctrlKey && focusCard()) return;
      sheetKey(event, now.current);
      if (event.defaultPrevented && useEditorStore.getState().typed === null) focusSheet();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}

function sheetKey(event: KeyboardEvent, catalogue: Catalogue): void {
  const { tool, cursor, byKeys, chosen, card, picking, set, choose } = useEditorStore.getState();
  const step = STEPS[event.key];
  const bare = !event.ctrlKey && !event.metaKey && !event.altKey;
  const done = () => event.preventDefault();

  if (step) {
    done();
    const length = event.shiftKey ? STRIDE : 1;
    const stride: Point = [step[0] * length, step[1] * length];
    // What was just placed by keys is chosen too, but the arrows go on pointing.
    if (tool.kind === "idle" && chosen.size && !event.ctrlKey && !byKeys) {
      shift(stride, catalogue, "nudge");
      return;
    }
    const to = event.ctrlKey
      ? nextPin(cursor, step, catalogue)
      : ([cursor[0] + stride[0], cursor[1] + stride[1]] as Point);
    set({ cursor: to, byKeys: true });
    if (tool.kind === "idle") choose([]);
    return;
  }
  switch (event.key) {
    case "Enter":
      done();
      if (tool.kind === "placing") {
        placeAt(cursor, catalogue, event.shiftKey);
        set({ byKeys: true });
      } else if (tool.kind === "naming") askName(cursor, catalogue);
      else if (tool.kind === "noting") noteAt(cursor);
      else if (tool.kind === "wiring") wireTo(cursor, catalogue);
      else if (chosen.size === 1) set({ card: [...chosen][0] ?? null });
      return;
    case "Escape":
      if (tool.kind !== "idle" || chosen.size || card || picking) done();
      set({ tool: { kind: "idle" }, card: null, picking: null });
      choose([]);
      return;
  }
  const commands: SheetCommand[] = Object.values(sheetCommands(catalogue));
  const meant = commands.find((each) => isKeyOf(each, event) && (each.isMeant?.() ?? true));
  if (meant) {
    done();
    meant.run();
  } else if (bare && tool.kind === "idle" && /^[\p{L}\p{N}.]$/u.test(event.key)) {
    done();
    choose([]);
    set({ typed: event.key, card: null });
  }
}

/** The nearest pin in a direction: within a quarter turn where there is one, else the least aside. */
export function nextPin(from: Point, [dx, dy]: Point, catalogue: Catalogue): Point {
  const pins = allPins(drawing(), catalogue).map(({ at }) => {
    const ahead = (at[0] - from[0]) * dx + (at[1] - from[1]) * dy;
    const aside = Math.abs((at[0] - from[0]) * dy) + Math.abs((at[1] - from[1]) * dx);
    return { at, ahead, isWide: aside > ahead, far: Math.hypot(ahead, aside) };
  });
  const [best] = pins
    .filter(({ ahead }) => ahead > 0)
    .sort((a, b) => Number(a.isWide) - Number(b.isWide) || a.far - b.far);
  return best?.at ?? from;
}
