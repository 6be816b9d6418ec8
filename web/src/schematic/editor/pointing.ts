// The sheet by mouse, pen or finger: press, move, release, and what each means for the tool in hand.
import { type MouseEvent, type PointerEvent, useRef } from "react";
import type { Point } from "../../api/types";
import { joinsAt } from "../model/edits";
import {
  allPins,
  type Box,
  bodyOf,
  type Catalogue,
  nearestOn,
  overlap,
  same,
  spanned,
} from "../model/geometry";
import { type View, zoomed } from "../model/view";
import {
  askName,
  drawing,
  leaveCaption,
  nodeAt,
  noteAt,
  placeAt,
  shiftSaid,
  snapped,
  startWire,
  wireTo,
} from "./actions";
import { type Asked, useEditorStore } from "./tools";

const hand = useEditorStore.getState;
const minus = ([x, y]: Point, [dx, dy]: Point): Point => [x - dx, y - dy];
const gap = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]);
const moved = ([x, y]: Point, [dx, dy]: Point): Point => [x + dx, y + dy];

/** The upper left corner of the part's text under the pointer; null where there is none. */
function captionUnder(event: PointerEvent): Point | null {
  const note = (event.target as Element).closest<SVGElement>("[data-note^='part ']");
  return note ? [Number(note.dataset.left), Number(note.dataset.top)] : null;
}

const STILL = 4; // px a right press may move and still ask for the menu
const ON_PIN = 0.6; // grid units; this near a pin a press means the pin, whatever else is written there

const isOnPin = (at: Point, catalogue: Catalogue) =>
  allPins(drawing(), catalogue).some(
    (pin) => Math.hypot(pin.at[0] - at[0], pin.at[1] - at[1]) < ON_PIN,
  );

function askedAt(event: PointerEvent, point: Point): Asked {
  const element = (event.target as Element).closest<SVGElement>("[data-id]");
  return { at: [event.clientX, event.clientY], point, id: element?.dataset.id ?? null };
}

/** Open the menu of what is there. What is chosen stays so where the press was on it. */
export function askMenu(asked: Asked): void {
  const { chosen, choose, set } = hand();
  if (!asked.id) choose([]);
  else if (!chosen.has(asked.id)) choose([asked.id]);
  set({ menu: asked, tool: { kind: "idle" }, card: null, cursor: rounded(asked.point) });
}

/** The menu asked for by key: of the part in focus, or of the place the cursor is at. */
export function menuByKeys(event: MouseEvent<HTMLElement>): void {
  const of = (event.target as Element).closest<SVGElement>("[data-role=part]");
  const frame = (of ?? event.currentTarget).getBoundingClientRect();
  const at: Point = [frame.left + frame.width / 2, frame.top + frame.height / 2];
  askMenu({ at, point: hand().cursor, id: of?.dataset.id ?? null });
}

const rounded = ([x, y]: Point): Point => [Math.round(x), Math.round(y)];

/** Handlers for the sheet; `look` is called with the new view while the paper is pushed about. */
export function usePointing(
  catalogue: Catalogue,
  gridAt: (event: { clientX: number; clientY: number }) => Point,
  view: View,
  look: (view: View) => void,
) {
  const touches = useRef(new Map<number, Point>());
  const pinch = useRef<{ gap: number; middle: Point; view: View } | null>(null);
  const panning = useRef<{ x: number; y: number; view: View; asked: Asked | null } | null>(null);

  const target = (event: PointerEvent) => {
    const element = (event.target as Element).closest<SVGElement>("[data-id]");
    return element ? { id: element.dataset.id as string, role: element.dataset.role } : null;
  };

  /** Two fingers: the paper follows their middle and grows with their distance. */
  const pinched = (): { gap: number; middle: Point } | null => {
    const [a, b] = [...touches.current.values()];
    if (!a || !b) return null;
    return {
      gap: Math.hypot(a[0] - b[0], a[1] - b[1]),
      middle: [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2],
    };
  };

  const down = (event: PointerEvent<HTMLElement>) => {
    if (event.pointerType === "touch") {
      touches.current.set(event.pointerId, [event.clientX, event.clientY]);
      const both = pinched();
      if (both) {
        pinch.current = { ...both, view };
        hand().set({ tool: { kind: "idle" } });
        return;
      }
    }
    const { tool, chosen } = hand();
    const at = gridAt(event);
    if (event.button === 1 || event.button === 2) {
      const asked = event.button === 2 ? askedAt(event, at) : null;
      panning.current = { x: event.clientX, y: event.clientY, view, asked };
      event.currentTarget.setPointerCapture(event.pointerId);
      return;
    }
    const { picking } = hand();
    if (picking) {
      const hit = target(event);
      const part = hit?.role === "part" && drawing().parts.find(({ id }) => id === hit.id);
      const node =
        isOnPin(at, catalogue) || !part ? nodeAt(snapped(at, catalogue), catalogue) : null;
      if (node) picking.pick({ node });
      else if (part) picking.pick({ part: part.name });
      return;
    }
    hand().set({ cursor: rounded(at), byKeys: false, card: null, typed: null });
    if (tool.kind === "placing") {
      placeAt(rounded(at), catalogue, event.shiftKey);
      return;
    }
    if (tool.kind === "noting") {
      noteAt(rounded(at));
      return;
    }
    if (tool.kind === "wiring") {
      wireTo(snapped(at, catalogue), catalogue);
      return;
    }
    if (tool.kind === "naming") {
      askName(snapped(at, catalogue), catalogue);
      return;
    }
    const hit = isOnPin(at, catalogue) ? { id: "", role: "pin" } : target(event);
    const text = hit && captionUnder(event);
    event.currentTarget.setPointerCapture(event.pointerId);
    if (hit?.role === "pin") {
      startWire(snapped(at, catalogue));
    } else if (hit && (hit.role === "part" || hit.role === "wire" || hit.role === "note")) {
      const ids = new Set(event.shiftKey ? chosen : chosen.has(hit.id) ? chosen : []);
      if (event.shiftKey && ids.has(hit.id)) ids.delete(hit.id);
      else ids.add(hit.id);
      hand().choose(ids);
      hand().set({
        tool: text
          ? { kind: "captioning", id: hit.id, corner: text, from: at, step: [0, 0] }
          : { kind: "dragging", ids, from: at, step: [0, 0] },
      });
    } else {
      if (!event.shiftKey) hand().choose([]);
      hand().set({ tool: { kind: "sweeping", from: at, to: at } });
    }
  };

  const move = (event: PointerEvent<HTMLElement>) => {
    if (touches.current.has(event.pointerId))
      touches.current.set(event.pointerId, [event.clientX, event.clientY]);
    const both = pinched();
    if (pinch.current && both) {
      const { gap, middle, view: start } = pinch.current;
      const frame = event.currentTarget.getBoundingClientRect();
      const about = { px: middle[0] - frame.left, py: middle[1] - frame.top };
      const grown = zoomed(start, both.gap / Math.max(gap, 1), about);
      look({
        ...grown,
        x: grown.x - (both.middle[0] - middle[0]) / grown.scale,
        y: grown.y - (both.middle[1] - middle[1]) / grown.scale,
      });
      return;
    }
    const pan = panning.current;
    if (pan) {
      const [dx, dy] = [event.clientX - pan.x, event.clientY - pan.y];
      if (pan.asked && Math.hypot(dx, dy) < STILL) return;
      pan.asked = null;
      look({
        ...pan.view,
        x: pan.view.x - dx / pan.view.scale,
        y: pan.view.y - dy / pan.view.scale,
      });
      return;
    }
    const { tool, cursor, byKeys } = hand();
    const at = gridAt(event);
    const joining = tool.kind === "wiring" || tool.kind === "naming";
    const pointed = joining ? snapped(at, catalogue) : rounded(at);
    if (!same(pointed, cursor) || byKeys) hand().set({ cursor: pointed, byKeys: false });
    const branch = tool.kind === "dragging" ? branchOff(tool.ids, tool.from, catalogue) : null;
    if (branch && !same(branch, pointed)) {
      hand().choose([]);
      hand().set({ tool: { kind: "wiring", points: [branch], dragged: true } });
    } else if (tool.kind === "dragging" || tool.kind === "captioning") {
      const name = tool.kind === "dragging" ? onlyName(tool.ids) : undefined;
      const step = name
        ? minus(snapped(at, catalogue), name.at) // a name goes where the hand is
        : rounded(minus(at, tool.from));
      const stays = name && !tool.step[0] && !tool.step[1] && gap(at, tool.from) < 1;
      if (!stays && !same(step, tool.step)) hand().set({ tool: { ...tool, step } });
    } else if (tool.kind === "sweeping") {
      hand().set({ tool: { ...tool, to: at } });
    } else if (tool.kind === "wiring" && event.buttons === 1 && !tool.dragged) {
      const from = tool.points.at(-1);
      if (from && !same(from, pointed)) hand().set({ tool: { ...tool, dragged: true } });
    }
  };

  const up = (event: PointerEvent<HTMLElement>) => {
    touches.current.delete(event.pointerId);
    if (pinch.current) {
      if (!touches.current.size) pinch.current = null;
      return;
    }
    if (panning.current) {
      const { asked } = panning.current;
      panning.current = null;
      if (asked) askMenu(asked);
      return;
    }
    const { tool, chosen } = hand();
    if (tool.kind === "dragging" || tool.kind === "captioning") {
      const stayed = !tool.step[0] && !tool.step[1];
      const pressed = stayed ? document.elementFromPoint(event.clientX, event.clientY) : null;
      const note = pressed?.closest<SVGElement>("[data-role=note]");
      hand().set({ tool: { kind: "idle" }, card: note?.dataset.id ?? null });
      if (stayed) return;
      if (tool.kind === "captioning") leaveCaption(tool.id, moved(tool.corner, tool.step));
      else shiftSaid(tool.ids, tool.step, catalogue);
    } else if (tool.kind === "sweeping") {
      const box = spanned(tool.from, tool.to);
      const ids = within(box, catalogue);
      const isSweep = box.right - box.left > 0.5 || box.bottom - box.top > 0.5;
      if (isSweep) hand().choose([...(event.shiftKey ? chosen : []), ...ids]);
      hand().set({ tool: { kind: "idle" } });
    } else if (tool.kind === "wiring" && tool.dragged) {
      wireTo(snapped(gridAt(event), catalogue), catalogue);
    }
  };

  return { onPointerDown: down, onPointerMove: move, onPointerUp: up, onPointerCancel: up };
}

/** Where a new wire begins when a wire that is held at both ends is pulled at; null for all else. */
function branchOff(ids: ReadonlySet<string>, from: Point, catalogue: Catalogue): Point | null {
  const [id] = ids;
  const { wires } = drawing();
  const wire = ids.size === 1 ? wires.find((candidate) => candidate.id === id) : undefined;
  if (!wire) return null;
  const others = { ...drawing(), wires: wires.filter((other) => other !== wire) };
  const held = [wire.points[0], wire.points.at(-1)].every(
    (end) => end && joinsAt(others, end, catalogue),
  );
  return held ? nearestOn(rounded(from), wire.points) : null;
}

/** The node's name that is dragged, where nothing else is. */
const onlyName = (ids: ReadonlySet<string>) =>
  ids.size === 1 ? drawing().labels.find(({ id }) => ids.has(id)) : undefined;

/** What a sweep chooses: the parts it touches, the wires and names it holds whole. */
function within(box: Box, catalogue: Catalogue): string[] {
  const { parts, wires, labels, notes } = drawing();
  const holds = ([x, y]: Point) =>
    box.left <= x && x <= box.right && box.top <= y && y <= box.bottom;
  const swept = [
    ...parts.filter((part) => overlap(bodyOf(part, catalogue), box)),
    ...wires.filter((wire) => wire.points.every(holds)),
    ...labels.filter((label) => holds(label.at)),
    ...notes.filter((note) => holds(note.at)),
  ];
  return swept.map((item) => item.id);
}
