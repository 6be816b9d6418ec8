// The drawing itself: symbols, wires, everything written on it, and the hand at work.
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Part, Point, Schematic } from "../api/types";
import { useExercise } from "../document/store";
import { annotate } from "./annotations/annotate";
import type { Annotations } from "./annotations/notes";
import { drawing, remove, wayTo } from "./editor/actions";
import { useCatalogue } from "./editor/catalogue";
import { clipboardHandlers } from "./editor/clipboard";
import { useFigures, useShownLook } from "./editor/figures";
import { useSheetKeys } from "./editor/keys";
import { menuByKeys, usePointing } from "./editor/pointing";
import { useShape } from "./editor/shape";
import { type Tool, useEditorStore } from "./editor/tools";
import { joinsAt } from "./model/edits";
import { extent, joined, kindOf, shifted, spanned } from "./model/geometry";
import {
  fitted,
  type SheetWishes,
  UNIT,
  useGrid,
  usePainted,
  useRegion,
  useSize,
  useWheel,
  type View,
  zoomed,
} from "./model/view";
import { shiftedBy } from "./model/wires";
import { PartCard } from "./panels/card/PartCard";
import { Clips } from "./view/Clips";
import { Drawn } from "./view/Drawn";
import { useLift } from "./view/lift";
import { useMeasure } from "./view/measure";
import { Paper } from "./view/Paper";
import { svgOf } from "./view/picture";
import { Sweep } from "./view/Sweep";
import { PartSymbol } from "./view/Symbol";
import { TitleBlock } from "./view/TitleBlock";

const NONE: ReadonlySet<string> = new Set();
const EDGE = 12; // px between the sheet's edge and what lies over it

/** px of the sheet that what lies over it at one of its ends takes. */
function heightOver(sheet: Element | null, end: "top" | "bottom"): number {
  const over = sheet?.parentElement?.querySelector<HTMLElement>(`[data-over=${end}]`);
  return over ? over.offsetHeight + EDGE : 0;
}

export function Sheet({ onView }: { onView?: (wishes: SheetWishes) => void }) {
  const catalogue = useCatalogue();
  const measure = useMeasure();
  const id = useExercise((state) => state.id);
  const schematic = useShape();
  const look = useShownLook();
  const inside = useExercise((state) => state.inside);
  const hand = useEditorStore();
  const { tool, chosen, hovered, focusedFinding, cursor, hues } = hand;

  const [place, size] = useSize<HTMLDivElement>();
  const [view, setView] = useState<View>({ x: -20, y: -20, scale: 12 });
  const fittedFor = useRef<{ shown: string; inside: string | null; height: number }>({
    shown: "",
    inside: null,
    height: 0,
  });
  /** Whether the view is still the fitted one, and so follows what is drawn and the page's size. */
  const untouched = useRef(true);
  const gridAt = useGrid(view, place);

  const preview: Schematic = useMemo(() => {
    if (tool.kind === "dragging") return shiftedBy(schematic, catalogue, tool.ids, tool.step);
    if (tool.kind !== "captioning" || (!tool.step[0] && !tool.step[1])) return schematic;
    const [x, y] = shifted(tool.corner, tool.step);
    const parts = schematic.parts.map((part) =>
      part.id === tool.id
        ? { ...part, caption: [Math.round(x) - part.at[0], Math.round(y) - part.at[1]] as Point }
        : part,
    );
    return { ...schematic, parts };
  }, [schematic, catalogue, tool]);
  const dragging = tool.kind === "dragging" ? tool : null;
  // While things are dragged, texts are not laid out anew: those of what moves come along.
  const shape = dragging ? schematic : preview;
  const before = useRef<Annotations | null>(null);
  const laid = useMemo(() => {
    before.current = annotate(shape, look, catalogue, hand.layers, measure, before.current);
    return before.current;
  }, [shape, look, catalogue, hand.layers, measure]);
  const { lift, ids: lifted, still } = useLift(schematic, preview, laid, dragging);
  const written = useRef(laid.notes);
  written.current = laid.notes;

  const fit = useCallback(() => {
    const drawn = extent(drawing(), catalogue);
    const boxes = [...(drawn ? [drawn] : []), ...written.current.map((note) => note.box)];
    untouched.current = true;
    const reserve = {
      top: heightOver(place.current, "top"),
      bottom: heightOver(place.current, "bottom"),
    };
    setView(fitted(boxes.length ? boxes.reduce(joined) : null, size, reserve));
  }, [catalogue, size, place]);
  // The view is fitted anew when another exercise or page size comes. Once something is drawn, findings
  // that come and go below must not move the sheet under the hand.
  const shown = `${id} ${inside} ${size.width}`;
  const zoom = useCallback(
    (factor: number) => {
      untouched.current = false;
      setView((now) => zoomed(now, factor, { px: size.width / 2, py: size.height / 2 }));
    },
    [size],
  );

  useEffect(() => {
    if (!catalogue.size || !size.width || !look) return;
    const edited = useExercise.getState().past.length > 0;
    const before = fittedFor.current;
    const sameHeight = before.height === size.height || edited;
    const entered = before.inside !== inside;
    if ((before.shown === shown && sameHeight) || !(untouched.current || entered)) return;
    fittedFor.current = { shown, inside, height: size.height };
    fit();
  }, [catalogue, size, look, shown, inside, fit]);
  // Other figures may be wider: only where one would leave the sheet does the drawing move for them.
  const figures = `${Object.values(hand.layers).join()} ${useFigures(({ of, quantities }) => of && quantities?.length)}`;
  const told = useRef(figures);
  useEffect(() => {
    if (told.current === figures || !size.width) return;
    told.current = figures;
    const reserve = heightOver(place.current, "bottom");
    const leaves = laid.notes.some(
      ({ box }) =>
        box.left < view.x ||
        box.right > view.x + size.width / view.scale ||
        box.top < view.y ||
        box.bottom > view.y + (size.height - reserve) / view.scale,
    );
    if (untouched.current && leaves) fit();
  }, [figures, laid, view, size, place, fit]);
  const picture = useCallback(() => {
    const sheet = place.current?.querySelector<SVGSVGElement>(".drawing");
    const drawn = extent(drawing(), catalogue);
    if (!sheet || !drawn) return null;
    const block = sheet.querySelector<SVGGElement>("[data-title-block]")?.getBBox();
    const title = block
      ? [spanned([block.x, block.y], [block.x + block.width, block.y + block.height])]
      : [];
    return svgOf(
      sheet,
      [drawn, ...written.current.map((note) => note.box), ...title].reduce(joined),
    );
  }, [catalogue, place]);
  useEffect(() => onView?.({ fit, zoom, picture }), [onView, fit, zoom, picture]);

  const lookAt = useCallback((change: View | ((view: View) => View)) => {
    untouched.current = false;
    setView(change);
  }, []);
  const clipboard = useMemo(
    () => clipboardHandlers(catalogue, () => remove(catalogue)),
    [catalogue],
  );
  const pointing = usePointing(catalogue, gridAt, view, lookAt);
  useWheel(place, lookAt);
  useSheetKeys(catalogue, { zoom, fit });

  const descriptions = useMemo(
    () => new Map(look?.parts.map((part) => [part.id, part.description])),
    [look],
  );
  const drawn = useMemo(() => extent(shape, catalogue), [shape, catalogue]);
  const region = useRegion(drawn);
  const painted = usePainted(view);
  const [wide, high] = [region.right - region.left, region.bottom - region.top];
  const wiring = tool.kind === "wiring" ? wayTo(tool.points, cursor, catalogue) : [];
  const willJoin =
    (tool.kind === "wiring" || tool.kind === "naming") && joinsAt(schematic, cursor, catalogue);
  const ghost = ghostOf(tool, cursor);
  const seen = {
    catalogue,
    look,
    descriptions,
    chosen,
    hovered,
    focusedFinding: focusedFinding?.ids,
    hues,
  };
  const plane = {
    width: UNIT * wide,
    height: UNIT * high,
    viewBox: `${region.left} ${region.top} ${wide} ${high}`,
    className: "drawing absolute top-0 left-0 block origin-top-left overflow-visible",
    style: {
      transform: `translate(${(region.left - view.x) * view.scale}px, ${(region.top - view.y) * view.scale}px) scale(${view.scale / UNIT})`,
      willChange: painted.moving ? "transform" : undefined,
    },
  };
  return (
    <div ref={place} className="sheet-frame relative h-full w-full overflow-hidden">
      <div
        role="application"
        aria-label="Schematic sheet"
        aria-describedby="sheet-help"
        tabIndex={0}
        className={`sheet absolute inset-0 overflow-hidden ${hand.picking || ["wiring", "placing", "naming", "noting"].includes(tool.kind) ? "cursor-crosshair" : ""}`}
        {...pointing}
        {...clipboard}
        onMouseDown={(event) => {
          // A press that opened a card leaves the keys to it.
          if (useEditorStore.getState().card) event.preventDefault();
        }}
        onContextMenu={(event) => {
          event.preventDefault();
          if (event.button !== 2) menuByKeys(event); // a press with the mouse may yet become a pan
        }}
        onDoubleClick={(event) => {
          // The pointer was captured by the sheet, so the element under it is looked up.
          const under = document.elementFromPoint(event.clientX, event.clientY);
          const hit = under?.closest<SVGElement>("[data-id]");
          if (hit && hit.dataset.role !== "wire") hand.set({ card: hit.dataset.id ?? null });
        }}
      >
        <Paper view={view} scale={painted.scale} />
        <svg role="presentation" {...plane}>
          <Drawn
            {...seen}
            schematic={lift ? schematic : preview}
            shape={shape}
            annotations={still}
            lifted={lifted}
          />
          {hand.layers.title && <TitleBlock drawn={drawn} />}
        </svg>
        {/* What the hand is at lies over the drawing, so that the drawing is not painted anew for it. */}
        <div inert aria-hidden="true" className="pointer-events-none">
          <svg
            {...plane}
            style={{ ...plane.style, willChange: painted.moving ? "transform" : "opacity" }}
          >
            {lift && (
              <Drawn
                {...seen}
                schematic={lift.drawing}
                shape={lift.drawing}
                annotations={lift.annotations}
                lifted={NONE}
              />
            )}
            {focusedFinding?.points.map(([x, y]) => (
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
            <Clips
              schematic={preview}
              catalogue={catalogue}
              written={laid.notes.map(({ box }) => box)}
            />
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
                <PartSymbol kind={kindOf(ghost, catalogue)} part={ghost} />
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
        </div>
      </div>
      <PartCard view={view} written={written} />
    </div>
  );
}

type Ghost = Pick<Part, "at" | "rotation" | "mirror" | "kind" | "block">;

function ghostOf(tool: Tool, at: Point): Ghost | null {
  if (tool.kind !== "placing") return null;
  const { placement, rotation, mirror } = tool;
  const [kind = "", block = ""] = (placement.kind ?? "").split(" ");
  return { kind, block, at, rotation, mirror };
}
