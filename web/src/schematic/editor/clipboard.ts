// Copy and paste of parts of a drawing, as text, so that it works between exercises and windows.
import type { Block, Part, Point, Schematic } from "../../api/types";
import { sheetOf, useExercise } from "../../document/store";
import { say } from "../../ui/Toasts";
import { freeName } from "../model/edits";
import { type Catalogue, key, onWire, pinsOf, shifted } from "../model/geometry";
import { freshId, tidied } from "../model/wires";
import { useEditorStore } from "./tools";

const FORMAT = "lucid-bench-drawing";
const BY_MIDDLE = 200; // ms after the middle button within which a paste is its doing
const LARGEST = 2_000_000; // characters

interface Clip extends Pick<Schematic, "parts" | "wires" | "junctions" | "labels" | "notes"> {
  format: typeof FORMAT;
  blocks: Block[];
}

const open = () => {
  const { document, inside } = useExercise.getState();
  return { document, sheet: sheetOf(document, inside) };
};

/** What is chosen, with the wires that run only between chosen parts; null where nothing is. */
export function clipped(
  schematic: Schematic,
  ids: ReadonlySet<string>,
  blocks: Block[],
  catalogue: Catalogue,
): Clip | null {
  const has = (item: { id: string }) => ids.has(item.id);
  const parts = schematic.parts.filter(has);
  const pins = new Set(parts.flatMap((part) => pinsOf(part, catalogue).map((p) => key(p.at))));
  const joined = schematic.wires.filter((wire) =>
    [wire.points[0], wire.points.at(-1)].every((end) => end && pins.has(key(end))),
  );
  const wires = [...new Set([...schematic.wires.filter(has), ...joined])];
  const labels = schematic.labels.filter(
    (label) => has(label) || wires.some((wire) => onWire(label.at, wire.points)),
  );
  const notes = schematic.notes.filter(has);
  if (!parts.length && !wires.length && !labels.length && !notes.length) return null;
  const junctions = schematic.junctions.filter((j) => wires.some((w) => onWire(j.at, w.points)));
  const used = new Set(parts.map((part) => part.block));
  return {
    format: FORMAT,
    parts,
    wires,
    junctions,
    labels,
    notes,
    blocks: blocks.filter((block) => used.has(block.id)),
  };
}

export function copyChosen(catalogue: Catalogue): string | null {
  const { document, sheet } = open();
  const clip = clipped(sheet, useEditorStore.getState().chosen, document.blocks, catalogue);
  return clip && JSON.stringify(clip);
}

// What was copied from a menu, where the browser does not let pages reach the clipboard.
let kept = "";

export function copyByMenu(catalogue: Catalogue): void {
  kept = copyChosen(catalogue) ?? kept;
  navigator.clipboard?.writeText(kept).catch(() => {});
}

export async function pasteByMenu(catalogue: Catalogue): Promise<void> {
  const text = await navigator.clipboard?.readText().catch(() => kept);
  pasteText(text || kept, catalogue);
}

/** The drawing with `clip` on it, its middle at `at`; and the identifiers of what came. */
export function pasted(schematic: Schematic, clip: Clip, at: Point, catalogue: Catalogue) {
  const points = [
    ...clip.parts.map((part) => part.at),
    ...clip.wires.flatMap((wire) => wire.points),
    ...clip.labels.map((label) => label.at),
    ...clip.notes.map((note) => note.at),
  ];
  const middle = (axis: 0 | 1) => {
    const along = points.map((point) => point[axis]);
    return Math.round((Math.min(...along) + Math.max(...along)) / 2);
  };
  const step: Point = [at[0] - middle(0), at[1] - middle(1)];
  const taken = [
    ...schematic.parts,
    ...schematic.wires,
    ...schematic.junctions,
    ...schematic.labels,
    ...schematic.notes,
  ].map(({ id }) => ({ id }));
  const renewed = <T extends { id: string }>(item: T, prefix: string): T => {
    const id = freshId(prefix, taken);
    taken.push({ id });
    return { ...item, id };
  };
  const names = [...schematic.parts];
  const parts = clip.parts.map((part) => {
    const own = /^([A-Za-z_]+?)\d*$/.exec(part.name);
    const isTaken = names.some((other) => other.name.toLowerCase() === part.name.toLowerCase());
    const name =
      part.kind === "ground" || !isTaken ? part.name : freeName(own?.[1] ?? part.name, names);
    const fresh: Part = { ...renewed(part, "p"), name, at: shifted(part.at, step) };
    names.push(fresh);
    return fresh;
  });
  const wires = clip.wires.map((wire) => ({
    ...renewed(wire, "w"),
    points: wire.points.map((point) => shifted(point, step)),
  }));
  const moved = <T extends { id: string; at: Point }>(items: T[], prefix: string) =>
    items.map((item) => ({ ...renewed(item, prefix), at: shifted(item.at, step) }));
  const [junctions, labels, notes] = [
    moved(clip.junctions, "j"),
    moved(clip.labels, "l"),
    moved(clip.notes, "t"),
  ];
  const whole = tidied(
    {
      ...schematic,
      parts: [...schematic.parts, ...parts],
      wires: [...schematic.wires, ...wires],
      junctions: [...schematic.junctions, ...junctions],
      labels: [...schematic.labels, ...labels],
      notes: [...schematic.notes, ...notes],
    },
    catalogue,
  );
  return { whole, ids: [...parts, ...wires, ...labels, ...notes].map((item) => item.id) };
}

/** Paste a text; what is no drawing is refused with a sentence, and nothing changes. */
export function pasteText(text: string, catalogue: Catalogue): boolean {
  const clip = readClip(text);
  if (!clip) {
    say("What was pasted is no piece of a drawing. Copy parts from a sheet, or import a file.");
    return false;
  }
  const { cursor, choose } = useEditorStore.getState();
  let came: string[] = [];
  const store = useExercise.getState();
  const group = `paste ${Date.now()}`;
  store.edit((document) => {
    for (const block of clip.blocks)
      if (!document.blocks.some((own) => own.id === block.id)) document.blocks.push(block);
  }, group);
  store.draw((schematic) => {
    const { whole, ids } = pasted(schematic, clip, [cursor[0] + 2, cursor[1] + 2], catalogue);
    came = ids;
    return whole;
  }, group);
  choose(came);
  return true;
}

function readClip(text: string): Clip | null {
  if (text.length > LARGEST) return null;
  try {
    const clip = JSON.parse(text) as Partial<Clip>;
    if (clip.format !== FORMAT) return null;
    const lists = [clip.parts, clip.wires, clip.junctions, clip.labels, clip.notes, clip.blocks];
    if (!lists.every(Array.isArray)) return null;
    const places = [...(clip.parts ?? []), ...(clip.labels ?? []), ...(clip.notes ?? [])];
    const sound =
      places.every((item) => isPoint(item.at)) &&
      (clip.wires ?? []).every((wire) => wire.points?.length > 1 && wire.points.every(isPoint)) &&
      (clip.parts ?? []).every((p) => typeof p.name === "string" && typeof p.kind === "string");
    return sound ? (clip as Clip) : null;
  } catch {
    return null;
  }
}

const isPoint = (point: unknown): point is Point =>
  Array.isArray(point) && point.length === 2 && point.every(Number.isInteger);

/** Copy, cut and paste while the sheet has the focus. */
export function clipboardHandlers(catalogue: Catalogue, remove: () => void) {
  let middle = Number.NEGATIVE_INFINITY;
  const copy = (event: React.ClipboardEvent) => {
    const text = copyChosen(catalogue);
    if (!text) return false;
    event.clipboardData.setData("text/plain", text);
    event.preventDefault();
    return true;
  };
  return {
    onCopy: (event: React.ClipboardEvent) => void copy(event),
    onCut: (event: React.ClipboardEvent) => {
      if (copy(event)) remove();
    },
    // The middle button pans; some systems paste by it.
    onMouseUp: (event: React.MouseEvent) => {
      if (event.button !== 1) return;
      event.preventDefault();
      middle = event.timeStamp;
    },
    onAuxClick: (event: React.MouseEvent) => event.preventDefault(),
    onPaste: (event: React.ClipboardEvent) => {
      event.preventDefault();
      if (event.timeStamp - middle < BY_MIDDLE) return;
      pasteText(event.clipboardData.getData("text/plain"), catalogue);
    },
  };
}
