// The drawing itself: symbols, wires, everything written on it, and the hand at work.
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Part, Point, Schematic } from "../api/types";
import { useExercise } from "../exercise/store";
import { askName, placeAt, shift, snapped, startWire, wayTo, wireTo } from "./actions";
import { annotate, nodeWires } from "./annotations";
import { useCatalogue } from "./catalogue";
import { joinsAt } from "./edits";
import {
  allPins,
  type Box,
  bodyOf,
  extent,
  grown,
  joined,
  key,
  onWire,
  overlap,
  pinsOf,
  same,
  spanned,
} from "./geometry";
import { sheetKey } from "./keys";
import { useMeasure } from "./measure";
import { Notes } from "./Notes";
import { PartCard } from "./PartCard";
import { PartSymbol } from "./Symbol";
import { useHand } from "./tools";
import { fitted, useGrid, useSize, type View, zoomed } from "./view";
import { shiftedBy } from "./wires";

const RULING = 2; // grid units between the lines of the paper
const RESERVE = { top: 56, bottom: 56 }; // px of the sheet that the tray and the layers lie over
const MOUSE_WHEEL_NOTCH = 50; // px; smaller steps come from a trackpad and pan

const rounded = ([x, y]: Point): Point => [Math.round(x), Math.round(y)];

export function Sheet({ onView }: { onView?: (wishes: SheetWishes) => void }) {
  const catalogue = useCatalogue();
  const measure = useMeasure();
  const id = useExercise((state) => state.id);
  const schematic = useExercise((state) => state.document.schematic);
  const look = useExercise((state) => state.look);
  const hand = useHand();
  const { tool, chosen, lit, pointedOut, cursor } = hand;

  const [place, size] = useSize<HTMLDivElement>();
  const [view, setView] = useState<View>({ x: -20, y: -20, scale: 12 });
  const fittedFor = useRef("");
  /** Whether the view is still the fitted one, and so follows what is drawn and the page's size. */
  const untouched = useRef(true);
  const panning = useRef<{ x: number; y: number; view: View } | null>(null);
  const gridAt = useGrid(view, place);

  const preview: Schematic = useMemo(
    () =>
      tool.kind === "dragging" ? shiftedBy(schematic, catalogue, tool.ids, tool.step) : schematic,
    [schematic, catalogue, tool],
  );
  const annotations = useMemo(
    () => annotate(preview, look, catalogue, hand.layers, measure),
    [preview, look, catalogue, hand.layers, measure],
  );
  const written = useRef<Box[]>([]);
  written.current = annotations.notes.map((note) => note.box);

  const fit = useCallback(() => {
    const drawn = extent(useExercise.getState().document.schematic, catalogue);
    const boxes = [...(drawn ? [drawn] : []), ...written.current];
    untouched.current = true;
    setView(fitted(boxes.length ? boxes.reduce(joined) : null, size, RESERVE));
  }, [catalogue, size]);
  // The view is fitted anew when another exercise, layer or page width comes, not while drawing.
  const shown = `${Object.values(hand.layers).join()} ${size.width}x${size.height}`;
  const zoom = useCallback(
    (factor: number) => {
      untouched.current = false;
      setView((now) => zoomed(now, factor, { px: size.width / 2, py: size.height / 2 }));
    },
    [size],
  );

  useEffect(() => {
    if (!catalogue.size || !size.width || !look) return;
    if (fittedFor.current === `${id} ${shown}` || !untouched.current) return;
    fittedFor.current = `${id} ${shown}`;
    fit();
  }, [catalogue, size, look, id, shown, fit]);
  useEffect(() => onView?.({ fit, zoom }), [onView, fit, zoom]);

  const litWires = useMemo(() => nodeWires(look, lit), [look, lit]);
  const dots = useMemo(
    () =>
      (look?.joints ?? []).filter(
        (joint) =>
          preview.wires.some((wire) => onWire(joint, wire.points)) ||
          allPins(preview, catalogue).some((pin) => same(pin.at, joint)),
      ),
    [look, preview, catalogue],
  );

  // --- pointing ---------------------------------------------------------------------------------

  const target = (event: React.PointerEvent) => {
    const element = (event.target as Element).closest<SVGElement>("[data-id]");
    return element ? { id: element.dataset.id as string, role: element.dataset.role } : null;
  };

  const down = (event: React.PointerEvent<SVGSVGElement>) => {
    const at = gridAt(event);
    if (event.button === 1 || event.button === 2) {
      panning.current = { x: event.clientX, y: event.clientY, view };
      event.currentTarget.setPointerCapture(event.pointerId);
      return;
    }
    hand.set({ cursor: rounded(at), byKeys: false, card: null, typed: null });
    if (tool.kind === "placing") {
      placeAt(rounded(at), catalogue);
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
    const hit = target(event);
    event.currentTarget.setPointerCapture(event.pointerId);
    if (hit?.role === "pin") {
      startWire(snapped(at, catalogue));
    } else if (hit && (hit.role === "part" || hit.role === "wire" || hit.role === "note")) {
      const ids = new Set(event.shiftKey ? chosen : chosen.has(hit.id) ? chosen : []);
      if (event.shiftKey && ids.has(hit.id)) ids.delete(hit.id);
      else ids.add(hit.id);
      hand.choose(ids);
      hand.set({ tool: { kind: "dragging", ids, from: at, step: [0, 0] } });
    } else {
      if (!event.shiftKey) hand.choose([]);
      hand.set({ tool: { kind: "sweeping", from: at, to: at } });
    }
  };

  const move = (event: React.PointerEvent<SVGSVGElement>) => {
    const pan = panning.current;
    if (pan) {
      untouched.current = false;
      const [dx, dy] = [event.clientX - pan.x, event.clientY - pan.y];
      setView({
        ...pan.view,
        x: pan.view.x - dx / pan.view.scale,
        y: pan.view.y - dy / pan.view.scale,
      });
      return;
    }
    const at = gridAt(event);
    const joining = tool.kind === "wiring" || tool.kind === "naming";
    const pointed = joining ? snapped(at, catalogue) : rounded(at);
    if (!same(pointed, cursor) || hand.byKeys) hand.set({ cursor: pointed, byKeys: false });
    if (tool.kind === "dragging") {
      const step = rounded([at[0] - tool.from[0], at[1] - tool.from[1]]);
      if (!same(step, tool.step)) hand.set({ tool: { ...tool, step } });
    } else if (tool.kind === "sweeping") {
      hand.set({ tool: { ...tool, to: at } });
    } else if (tool.kind === "wiring" && event.buttons === 1 && !tool.dragged) {
      const from = tool.points.at(-1);
      if (from && !same(from, pointed)) hand.set({ tool: { ...tool, dragged: true } });
    }
  };

  const up = (event: React.PointerEvent<SVGSVGElement>) => {
    if (panning.current) {
      panning.current = null;
      return;
    }
    if (tool.kind === "dragging") {
      const stayed = !tool.step[0] && !tool.step[1];
      const pressed = stayed ? document.elementFromPoint(event.clientX, event.clientY) : null;
      const note = pressed?.closest<SVGElement>("[data-role=note]");
      hand.set({ tool: { kind: "idle" }, card: note?.dataset.id ?? null });
      if (!stayed) shift(tool.step, catalogue);
    } else if (tool.kind === "sweeping") {
      const box = spanned(tool.from, tool.to);
      const inside = (points: Point[]) =>
        points.every(
          ([x, y]) => box.left <= x && x <= box.right && box.top <= y && y <= box.bottom,
        );
      const swept = [
        ...schematic.parts.filter((part) => overlap(bodyOf(part, catalogue), box)),
        ...schematic.wires.filter((wire) => inside(wire.points)),
        ...schematic.labels.filter((label) => inside([label.at])),
      ];
      const isSweep = box.right - box.left > 0.5 || box.bottom - box.top > 0.5;
      if (isSweep)
        hand.choose([...(event.shiftKey ? chosen : []), ...swept.map((item) => item.id)]);
      hand.set({ tool: { kind: "idle" } });
    } else if (tool.kind === "wiring" && tool.dragged) {
      wireTo(snapped(gridAt(event), catalogue), catalogue);
    }
  };

  useEffect(() => {
    const element = place.current;
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      untouched.current = false;
      const frame = element.getBoundingClientRect();
      const about = { px: event.clientX - frame.left, py: event.clientY - frame.top };
      const notch = !event.deltaX && Math.abs(event.deltaY) >= MOUSE_WHEEL_NOTCH;
      if (event.ctrlKey || notch)
        setView((now) => zoomed(now, Math.exp(-event.deltaY * (notch ? 0.0015 : 0.01)), about));
      else
        setView((now) => ({
          ...now,
          x: now.x + event.deltaX / now.scale,
          y: now.y + event.deltaY / now.scale,
        }));
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [place]);

  // --- drawing ----------------------------------------------------------------------------------

  const descriptions = useMemo(
    () => new Map(look?.parts.map((part) => [part.id, part.description])),
    [look],
  );
  const litSubject = lit?.startsWith("V_") ? null : lit?.slice(2);
  const viewBox = `${view.x} ${view.y} ${size.width / view.scale} ${size.height / view.scale}`;
  const wiring = tool.kind === "wiring" ? wayTo(tool.points, cursor, catalogue) : [];
  const willJoin =
    (tool.kind === "wiring" || tool.kind === "naming") && joinsAt(schematic, cursor, catalogue);
  const ghost = ghostOf(tool, cursor);
  const used = useMemo(() => {
    const ends = preview.wires.flatMap((w) => [w.points[0] as Point, w.points.at(-1) as Point]);
    const pins = preview.parts.flatMap((part) => pinsOf(part, catalogue).map((pin) => pin.at));
    const counts = new Map<string, number>();
    for (const point of [...ends, ...pins])
      counts.set(key(point), (counts.get(key(point)) ?? 0) + 1);
    return counts;
  }, [preview, catalogue]);

  return (
    <div ref={place} className="relative h-full w-full overflow-hidden">
      <svg
        role="application"
        aria-label="Schematic sheet"
        aria-describedby="sheet-help"
        tabIndex={0}
        className={`sheet block h-full w-full ${["wiring", "placing", "naming"].includes(tool.kind) ? "cursor-crosshair" : ""}`}
        viewBox={size.width ? viewBox : undefined}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onContextMenu={(event) => event.preventDefault()}
        onKeyDown={(event) => sheetKey(event, catalogue, { zoom, fit })}
        onDoubleClick={(event) => {
          // The pointer was captured by the sheet, so the element under it is looked up.
          const under = document.elementFromPoint(event.clientX, event.clientY);
          const hit = under?.closest<SVGElement>("[data-id]");
          if (hit && hit.dataset.role !== "wire") hand.set({ card: hit.dataset.id ?? null });
        }}
      >
        <Paper view={view} width={size.width} height={size.height} />

        {preview.wires.map((wire) => (
          <g key={wire.id}>
            <polyline
              className="wire"
              data-chosen={chosen.has(wire.id)}
              data-lit={litWires.has(wire.id)}
              data-pointed={pointedOut?.ids.has(wire.id)}
              points={wire.points.join(" ")}
            />
            <polyline
              data-id={wire.id}
              data-role="wire"
              points={wire.points.join(" ")}
              fill="none"
              stroke="transparent"
              strokeWidth={1}
            />
          </g>
        ))}

        {preview.parts.map((part) => (
          <PlacedPart
            key={part.id}
            part={part}
            description={descriptions.get(part.id) ?? part.name}
            chosen={chosen.has(part.id)}
            lit={litSubject === part.name}
            pointed={pointedOut?.ids.has(part.id) ?? false}
          />
        ))}

        {dots.map((point) => (
          <circle key={key(point)} className="solid" cx={point[0]} cy={point[1]} r={0.36} />
        ))}
        {allPins(preview, catalogue).map((pin) => (
          <g key={`${pin.part.id} ${pin.index}`} className="group cursor-crosshair">
            {used.get(key(pin.at)) === 1 && (
              <circle
                cx={pin.at[0]}
                cy={pin.at[1]}
                r={0.3}
                fill="var(--paper)"
                stroke="var(--accent)"
                strokeWidth={0.14}
              />
            )}
            <circle
              data-id={pin.part.id}
              data-role="pin"
              data-pin={pin.index}
              cx={pin.at[0]}
              cy={pin.at[1]}
              r={0.75}
              className="fill-transparent stroke-transparent hover:stroke-accent"
              strokeWidth={0.18}
            />
          </g>
        ))}

        <Notes annotations={annotations} lit={lit} />

        {pointedOut?.points.map(([x, y]) => (
          <circle
            key={`${x},${y}`}
            cx={x}
            cy={y}
            r={1.1}
            fill="none"
            stroke="var(--fault)"
            strokeWidth={0.25}
          />
        ))}
        {wiring.length > 1 && (
          <polyline
            points={wiring.join(" ")}
            fill="none"
            stroke="var(--accent)"
            strokeWidth={0.2}
            strokeDasharray={willJoin ? undefined : "0.6 0.4"}
          />
        )}
        {willJoin && (
          <g stroke="var(--accent)" fill="none">
            <circle cx={cursor[0]} cy={cursor[1]} r={0.9} strokeWidth={0.22} />
            <circle cx={cursor[0]} cy={cursor[1]} r={0.34} fill="var(--accent)" />
          </g>
        )}
        {ghost && (
          <g opacity={0.65} pointerEvents="none">
            <PartSymbol kind={catalogue.get(ghost.kind)} part={ghost} />
          </g>
        )}
        {tool.kind === "sweeping" && <Sweep from={tool.from} to={tool.to} />}
        {(hand.byKeys || tool.kind === "wiring") && !willJoin && (
          <path
            d={`M${cursor[0] - 1} ${cursor[1]}h2M${cursor[0]} ${cursor[1] - 1}v2`}
            stroke="var(--accent)"
            strokeWidth={0.16}
            pointerEvents="none"
          />
        )}
      </svg>
      <PartCard view={view} />
    </div>
  );
}

export interface SheetWishes {
  fit(): void;
  zoom(factor: number): void;
}

type Ghost = Pick<Part, "at" | "rotation" | "mirror" | "kind">;

function ghostOf(tool: ReturnType<typeof useHand.getState>["tool"], at: Point): Ghost | null {
  if (tool.kind !== "placing") return null;
  const { placement, rotation, mirror } = tool;
  return { kind: placement.kind ?? "", at, rotation, mirror };
}

function Paper({ view, width, height }: { view: View; width: number; height: number }) {
  if (!width) return null;
  const cell = view.scale < 5 ? RULING * 5 : RULING;
  return (
    <>
      <defs>
        <pattern id="ruling" width={cell} height={cell} patternUnits="userSpaceOnUse">
          <path
            d={`M0 0H${cell}M0 0V${cell}`}
            stroke="var(--ruling)"
            strokeWidth={1.6 / view.scale}
          />
        </pattern>
      </defs>
      <rect
        x={view.x}
        y={view.y}
        width={width / view.scale}
        height={height / view.scale}
        fill="url(#ruling)"
      />
    </>
  );
}

function Sweep({ from, to }: { from: Point; to: Point }) {
  const { left, top, right, bottom } = spanned(from, to);
  return (
    <rect
      x={left}
      y={top}
      width={right - left}
      height={bottom - top}
      fill="var(--accent)"
      fillOpacity={0.08}
      stroke="var(--accent)"
      strokeWidth={0.1}
    />
  );
}

interface PlacedPartProps {
  part: Part;
  description: string;
  chosen: boolean;
  lit: boolean;
  pointed: boolean;
}

function PlacedPart({ part, description, chosen, lit, pointed }: PlacedPartProps) {
  const catalogue = useCatalogue();
  const box = grown(bodyOf(part, catalogue), 0.5);
  return (
    <g
      className="part"
      role="button"
      aria-label={description}
      aria-pressed={chosen}
      tabIndex={0}
      data-id={part.id}
      data-role="part"
      data-chosen={chosen}
      data-lit={lit}
      data-pointed={pointed}
      onFocus={() => {
        // A press has chosen already, perhaps several; a focus that came by key chooses this one.
        if (useHand.getState().tool.kind === "idle") useHand.getState().choose([part.id]);
      }}
      onPointerEnter={() => useHand.getState().set({ lit: `I_${part.name}` })}
      onPointerLeave={() => useHand.getState().set({ lit: null })}
    >
      <rect
        className="halo"
        x={box.left}
        y={box.top}
        width={box.right - box.left}
        height={box.bottom - box.top}
        rx={0.4}
      />
      <PartSymbol kind={catalogue.get(part.kind)} part={part} />
    </g>
  );
}
