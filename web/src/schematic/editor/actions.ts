// What the sheet, its keys, its tray and its card can all do: the hand's moves turned into edits.
import type { Kind, Label, Part, Placement, Point, Renaming } from "../../api/types";
import { BASE, shownCase } from "../../document/cases";
import { rename } from "../../document/rename";
import { sheetOf, useExercise } from "../../document/store";
import { say } from "../../ui/Toasts";
import { aligned, healed, renumbered, replaced, spaced } from "../model/arrange";
import {
  joinsAt,
  mirrored,
  moved,
  named,
  newPart,
  put,
  turned,
  wire,
  without,
} from "../model/edits";
import { allPins, type Catalogue, kindOf, onWire, same, shifted } from "../model/geometry";
import { route, simplified, surroundings } from "../model/route";
import { freshId } from "../model/wires";
import { editInCase } from "./cases";
import { copyChosen, pasteText } from "./clipboard";
import { focusSheet } from "./focus";
import { type Tool, useEditorStore } from "./tools";

const hand = useEditorStore.getState;
const exercise = useExercise.getState;
export const drawing = () => sheetOf(exercise().document, exercise().inside);

const SNAP = 1.25; // grid units within which a wire's end jumps to a pin

export function startPlacing(placement: Placement): void {
  if (placement.node_name) {
    nameNode(placement.node_name, hand().cursor, placement.style);
    return;
  }
  const rotation = (placement.rotation ?? 0) as Part["rotation"];
  take({ kind: "placing", placement, rotation, mirror: false });
}

/** Take something in hand: from now on the keys are the sheet's. */
export function take(tool: Tool): void {
  hand().set({ tool, typed: null, card: null });
  hand().choose([]);
  focusSheet();
}

/** Put down what is in the hand; with `more`, another of it stays there. */
export function placeAt(at: Point, catalogue: Catalogue, more = false): void {
  const { tool } = hand();
  if (tool.kind !== "placing") return;
  const kind = catalogue.get(tool.placement.kind ?? "");
  if (!kind) return;
  const asked = nameFor(tool.placement, drawing().parts);
  const part = { ...newPart(drawing(), kind, tool.placement, at), ...orientation(tool) };
  if (asked) part.name = asked;
  exercise().draw((schematic) => put(schematic, part, catalogue));
  const recent = [kind.key, ...hand().recent.filter((key) => key !== kind.key)].slice(0, 6);
  hand().set({ recent });
  if (more) return;
  hand().set({ tool: { kind: "idle" } });
  hand().choose([part.id]);
}

const orientation = ({ rotation, mirror }: Pick<Part, "rotation" | "mirror">) => ({
  rotation,
  mirror,
});

/** A kind with its defaults, as it comes from the tray. */
export const placementOf = (kind: Kind): Placement => ({
  label: kind.label,
  detail: "",
  kind: kind.key,
  name: null,
  values: kind.values,
  form: "",
  rotation: kind.rotation,
  node_name: null,
  style: "name",
});

export const startPlacingKind = (kind: Kind) => startPlacing(placementOf(kind));

/** The name a part was asked for under, where no other has it. */
export function nameFor({ name }: Placement, parts: Part[]): string | null {
  const taken = parts.some((part) => part.name.toLowerCase() === name?.toLowerCase());
  return taken ? null : (name ?? null);
}

export function nameNode(name: string, at: Point, style: Label["style"] = "name"): void {
  const number = spokenNumberAt(at);
  if (number && number !== name && style === "name") {
    // Spoken of by its number so far: what speaks of it goes on doing so by its name.
    const group = `name ${at}`;
    exercise().draw((schematic) => {
      const labels = schematic.labels.filter((label) => label.name !== number);
      return named({ ...schematic, labels }, number, at);
    }, group);
    const renaming: Renaming = { what: "node", which: number, name, sheet: "" };
    rename([renaming], group).catch((error: Error) => say(error.message));
  } else exercise().draw((schematic) => named(schematic, name, at, style));
  hand().set({ typed: null });
}

/** The number of the node whose wire is at a point, where the document speaks of it by that, or where
 * somebody wrote it there. */
function spokenNumberAt(at: Point): string | null {
  const { document, inside, look, lookedAt } = exercise();
  if (inside || !look || lookedAt !== document) return null;
  const net = netAt(at);
  if (!net) return null;
  const isSpoken = look.spoken.includes(net.name);
  return isSpoken || (net.named && /^n\d+$/.test(net.name)) ? net.name : null;
}

/** Name the node at a point by its card: with the number that is spoken of, or a name that is still free,
 * to begin with. */
export function askName(at: Point, catalogue: Catalogue): void {
  if (!joinsAt(drawing(), at, catalogue)) return;
  const taken = new Set(drawing().labels.map((label) => label.name));
  let letter = "a";
  while (taken.has(letter)) letter = String.fromCharCode(letter.charCodeAt(0) + 1);
  const there = drawing().labels.find((label) => same(label.at, at));
  if (!there) nameNode(spokenNumberAt(at) ?? letter, at);
  const label = drawing().labels.find((candidate) => same(candidate.at, at));
  hand().set({ tool: { kind: "idle" }, card: label?.id ?? null });
}

export function startWire(at: Point | null): void {
  take({ kind: "wiring", points: at ? [at] : [], dragged: false });
}

/** Where a wire would end if it ended at `at` now: a pin within reach, else the point itself. */
export function snapped(at: Point, catalogue: Catalogue): Point {
  let best: Point = [Math.round(at[0]), Math.round(at[1])];
  let reach = SNAP;
  for (const pin of allPins(drawing(), catalogue)) {
    const gap = Math.hypot(pin.at[0] - at[0], pin.at[1] - at[1]);
    if (gap < reach) [best, reach] = [pin.at, gap];
  }
  return best;
}

/** The way a wire under way would take to `to`. */
export function wayTo(points: Point[], to: Point, catalogue: Catalogue): Point[] {
  const from = points.at(-1);
  if (!from || same(from, to)) return points;
  const last = route(from, to, surroundings(drawing(), catalogue));
  return simplified([...points, ...last]);
}

/** A click or Enter while wiring: begins, joins and ends, or turns a corner on empty paper. */
export function wireTo(at: Point, catalogue: Catalogue): void {
  const { tool } = hand();
  if (tool.kind !== "wiring") return;
  const from = tool.points.at(-1);
  if (!from) {
    hand().set({ tool: { ...tool, points: [at] } });
    return;
  }
  const way = wayTo(tool.points, at, catalogue);
  if (same(from, at) || joinsAt(drawing(), at, catalogue)) {
    if (way.length > 1) exercise().draw((schematic) => wire(schematic, way, catalogue));
    hand().set({ tool: { kind: "idle" } });
  } else {
    hand().set({ tool: { kind: "wiring", points: way, dragged: false } });
  }
}

export function turn(catalogue: Catalogue): void {
  const { tool, chosen } = hand();
  if (tool.kind === "placing")
    hand().set({ tool: { ...tool, rotation: ((tool.rotation + 90) % 360) as Part["rotation"] } });
  else exercise().draw((schematic) => turned(schematic, chosen, catalogue));
}

export function mirror(catalogue: Catalogue): void {
  const { tool, chosen } = hand();
  if (tool.kind === "placing")
    hand().set({
      tool: {
        ...tool,
        mirror: !tool.mirror,
        rotation: ((360 - tool.rotation) % 360) as Part["rotation"],
      },
    });
  else exercise().draw((schematic) => mirrored(schematic, chosen, catalogue));
}

/** Remove what is chosen; with `heal`, a wire takes the place of each part with two ends. */
export function remove(catalogue: Catalogue, heal = false): void {
  const { chosen } = hand();
  if (!chosen.size) return;
  exercise().draw((schematic) =>
    heal ? healed(schematic, chosen, catalogue) : without(schematic, chosen, catalogue),
  );
  hand().set({ card: null });
  hand().choose([]);
}

export function shift(step: Point, catalogue: Catalogue, group?: string): void {
  const { chosen } = hand();
  exercise().draw((schematic) => moved(schematic, chosen, step, catalogue), group);
}

/** Shift what was dragged. Where a name thereby comes to another node, that is said. */
export function shiftSaid(ids: ReadonlySet<string>, step: Point, catalogue: Catalogue): void {
  const label = drawing().labels.find(({ id }) => ids.size === 1 && ids.has(id));
  const before = label && nodeAt(label.at, catalogue);
  shift(step, catalogue);
  if (!label) return;
  const after = nodeAt(shifted(label.at, step), catalogue);
  if (before === after) return;
  say(
    after ? `${label.name} is now the name of another node.` : `${label.name} names no node there.`,
    { label: "Undo", run: () => exercise().undo() },
  );
}

/** Which node a point of the drawing belongs to, as the last look has it; null for none. */
export function nodeAt(at: Point, catalogue: Catalogue): string | null {
  const onIt = netAt(at);
  if (onIt) return onIt.name;
  const pins = new Set(
    allPins(drawing(), catalogue)
      .filter((pin) => same(pin.at, at))
      .map((pin) => `${pin.part.id} ${pin.index}`),
  );
  const nets = exercise().look?.nets;
  return (
    nets?.find((net) => net.pins.some(([id, index]) => pins.has(`${id} ${index}`)))?.name ?? null
  );
}

/** The node of the wire at a point, as the last look has it. */
function netAt(at: Point) {
  const there = new Set(
    drawing()
      .wires.filter(({ points }) => onWire(at, points))
      .map((w) => w.id),
  );
  return exercise().look?.nets.find(({ wires }) => wires.some((id) => there.has(id)));
}

export function chooseAll(): void {
  const { parts, wires, labels, notes } = drawing();
  hand().choose([...parts, ...wires, ...labels, ...notes].map((item) => item.id));
}

/** What is chosen once more, a little aside. */
export function duplicate(catalogue: Catalogue): void {
  const text = copyChosen(catalogue);
  if (!text) return;
  const { chosen } = hand();
  const places = drawing().parts.filter((part) => chosen.has(part.id));
  const middle = (axis: 0 | 1) => {
    const along = places.map((part) => part.at[axis]);
    return Math.round((Math.min(...along) + Math.max(...along)) / 2);
  };
  if (places.length) hand().set({ cursor: [middle(0) + 2, middle(1) + 2] });
  pasteText(text, catalogue);
}

export function align(into: "row" | "column", catalogue: Catalogue): void {
  exercise().draw((schematic) => aligned(schematic, hand().chosen, into, catalogue));
}

export function space(catalogue: Catalogue): void {
  exercise().draw((schematic) => spaced(schematic, hand().chosen, catalogue));
}

export function replace(id: string, kind: Kind, catalogue: Catalogue): void {
  const shown = shownCase(exercise());
  const part = drawing().parts.find((candidate) => candidate.id === id);
  if (shown === BASE || !part) {
    exercise().draw((schematic) => replaced(schematic, id, kind, catalogue));
    return;
  }
  const own = kindOf(part, catalogue);
  const places = (of: Kind | undefined) => of?.pins.map(({ x, y }) => [x, y]).join();
  if (places(own) !== places(kind)) {
    say(
      `A ${kind.label} has its pins at other places: it cannot stand in for ${part.name} in a case.`,
    );
    return;
  }
  editInCase(
    shown,
    part,
    (item) => Object.assign(item, { kind: kind.key, form: "", values: { ...kind.values } }),
    `kind ${id}`,
  );
}

export function renumber(catalogue: Catalogue): void {
  const sheet = exercise().inside ?? "";
  const renamings = [...renumbered(drawing(), catalogue)].map(
    ([which, name]): Renaming => ({ what: "part", which, name, sheet }),
  );
  if (renamings.length) rename(renamings).catch((error: Error) => say(error.message));
}

/** A note to be written where the hand points. */
export function noteAt(at: Point): void {
  const id = freshId("t", drawing().notes);
  exercise().draw((schematic) => ({
    ...schematic,
    notes: [...schematic.notes, { id, at, text: "" }],
  }));
  hand().set({ tool: { kind: "idle" }, card: id });
}

/** Leave a part's text where it was dragged to. */
export function leaveCaption(id: string, corner: Point): void {
  exercise().editSheet((schematic) => {
    const part = schematic.parts.find((item) => item.id === id);
    if (part)
      part.caption = [Math.round(corner[0]) - part.at[0], Math.round(corner[1]) - part.at[1]];
  });
}
