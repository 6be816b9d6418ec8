// The drawing itself: symbols, wires, everything written on it, and the hand at work.
import { useCallback, useEffect, useMemo, useRef } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Point, Schematic } from "../api/types";
import { annotate } from "./annotations/annotate";
import type { Annotations } from "./annotations/notes";
import { drawing, remove } from "./editor/actions";
import { useCatalogue } from "./editor/catalogue";
import { clipboardHandlers } from "./editor/clipboard";
import { useShownLook } from "./editor/figures";
import { useSheetKeys } from "./editor/keys";
import { menuByKeys, usePointing } from "./editor/pointing";
import { useShape } from "./editor/shape";
import { useEditorStore } from "./editor/tools";
import { extent, joined, shifted, spanned } from "./model/geometry";
import { provideSheet } from "./model/openSheet";
import { UNIT, useGrid, usePainted, useRegion, useSize, useWheel } from "./model/view";
import { shiftedBy } from "./model/wires";
import { PartCard } from "./panels/card/PartCard";
import { AtHand } from "./view/AtHand";
import { Drawn } from "./view/Drawn";
import { useLift } from "./view/lift";
import { useMeasure } from "./view/measure";
import { Paper } from "./view/Paper";
import { svgOf } from "./view/picture";
import { useSheetView } from "./view/sheetView";
import { TitleBlock } from "./view/TitleBlock";

const NONE: ReadonlySet<string> = new Set();

export function Sheet() {
  const catalogue = useCatalogue();
  const measure = useMeasure();
  const schematic = useShape();
  const look = useShownLook();
  const { tool, chosen, hovered, focusedFinding, hues, layers, picking } = useEditorStore(
    useShallow(({ tool, chosen, hovered, focusedFinding, hues, layers, picking }) => ({
      tool,
      chosen,
      hovered,
      focusedFinding,
      hues,
      layers,
      picking,
    })),
  );
  const [place, size] = useSize<HTMLDivElement>();

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
    before.current = annotate(shape, look, catalogue, layers, measure, before.current);
    return before.current;
  }, [shape, look, catalogue, layers, measure]);
  const { lift, ids: lifted, still } = useLift(schematic, preview, laid, dragging);
  const written = useRef(laid.notes);
  written.current = laid.notes;
  const { view, fit, zoom, lookAt } = useSheetView(place, size, laid.notes);
  const gridAt = useGrid(view, place);

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
  useEffect(() => {
    provideSheet({ fit, zoom, picture });
    return () => provideSheet(null);
  }, [fit, zoom, picture]);

  const clipboard = useMemo(
    () => clipboardHandlers(catalogue, () => remove(catalogue)),
    [catalogue],
  );
  const pointing = usePointing(catalogue, gridAt, view, lookAt);
  useWheel(place, lookAt);
  useSheetKeys(catalogue);

  const descriptions = useMemo(
    () => new Map(look?.parts.map((part) => [part.id, part.description])),
    [look],
  );
  const drawn = useMemo(() => extent(shape, catalogue), [shape, catalogue]);
  const region = useRegion(drawn);
  const painted = usePainted(view);
  const [wide, high] = [region.right - region.left, region.bottom - region.top];
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
        className={`sheet absolute inset-0 overflow-hidden ${picking || ["wiring", "placing", "naming", "noting"].includes(tool.kind) ? "cursor-crosshair" : ""}`}
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
          if (hit && hit.dataset.role !== "wire")
            useEditorStore.getState().set({ card: hit.dataset.id ?? null });
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
          {layers.title && <TitleBlock drawn={drawn} />}
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
            <AtHand preview={preview} written={laid.notes} />
          </svg>
        </div>
      </div>
      <PartCard view={view} written={written} />
    </div>
  );
}
