// What the hand is doing on the sheet, where the cursor is, what is chosen and what is lit.
import { create } from "zustand";
import type { Part, Placement, Point } from "../../api/types";
import type { Layers } from "../annotations/notes";

export type Tool =
  | { kind: "idle" }
  | {
      kind: "placing";
      placement: Placement;
      rotation: Part["rotation"];
      mirror: boolean;
    }
  | { kind: "wiring"; points: Point[]; dragged: boolean }
  | { kind: "naming" }
  | { kind: "noting" }
  | { kind: "captioning"; id: string; corner: Point; from: Point; step: Point }
  | { kind: "dragging"; ids: ReadonlySet<string>; from: Point; step: Point }
  | { kind: "sweeping"; from: Point; to: Point };

export interface Asked {
  /** px of the page. */
  at: Point;
  /** The place on the sheet. */
  point: Point;
  id: string | null;
}

/** One clip of the bench: `mark` is what is written on it, `role` what it is called. */
export interface Clip {
  role: string;
  mark: string;
  node: string;
  /** The name of a part, and one of its pins: -1 for the part as a whole. */
  part: string;
  pin: number;
}

export interface Picking {
  hint: string;
  /** A node, or a part by name. */
  pick(place: { node: string } | { part: string }): void;
}

interface Hand {
  tool: Tool;
  /** Where the mouse or the arrow keys point, in grid units. */
  cursor: Point;
  /** The arrow keys were used last, so the cursor is drawn. */
  byKeys: boolean;
  chosen: ReadonlySet<string>;
  /** The part or name whose card is open. */
  card: string | null;
  /** The menu that a right press opened: of what, and where on the page. */
  menu: Asked | null;
  /** What was typed to place something; null while the box is closed. */
  typed: string | null;
  /** The quantity pointed at on either page. */
  hovered: string | null;
  /** The parts, by name, that a step of a working speaks of. */
  highlighted: ReadonlySet<string>;
  /** The places of the finding pointed at. */
  focusedFinding: { ids: ReadonlySet<string>; points: Point[] } | null;
  /** What the bench is clipped to, drawn on the sheet. */
  clips: readonly Clip[];
  /** Set while a place on the drawing is being pointed at for something else. */
  picking: Picking | null;
  /** The quantities that are drawn as curves beside the sheet, and the hue of each. */
  hues: ReadonlyMap<string, number>;
  layers: Layers;
  /** Kinds placed lately, latest first. */
  recent: readonly string[];
  set(change: Partial<Hand>): void;
  choose(ids: Iterable<string>): void;
  reset(): void;
}

const LAYERS_KEY = "lucid-bench.layers";

const usual: Layers = { voltage: true, current: true, power: false, title: false };

function storedLayers(): Layers {
  try {
    return { ...usual, ...JSON.parse(localStorage.getItem(LAYERS_KEY) ?? "{}") };
  } catch {
    return usual;
  }
}

const atRest = {
  tool: { kind: "idle" } as Tool,
  cursor: [0, 0] as Point,
  byKeys: false,
  chosen: new Set<string>() as ReadonlySet<string>,
  card: null,
  menu: null,
  typed: null,
  hovered: null,
  highlighted: new Set<string>() as ReadonlySet<string>,
  focusedFinding: null,
  clips: [] as readonly Clip[],
  picking: null,
  hues: new Map() as ReadonlyMap<string, number>,
};

export const useEditorStore = create<Hand>()((set) => ({
  ...atRest,
  layers: storedLayers(),
  recent: [],
  set: (change) => {
    if (change.layers) localStorage.setItem(LAYERS_KEY, JSON.stringify(change.layers));
    set(change);
  },
  choose: (ids) => set({ chosen: new Set(ids) }),
  reset: () => set(atRest),
}));
