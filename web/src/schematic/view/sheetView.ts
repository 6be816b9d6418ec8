// Where the sheet is looked at: fitted to what is drawn until someone looks elsewhere.
import { type RefObject, useCallback, useEffect, useRef, useState } from "react";
import { useExercise } from "../../document/store";
import type { Annotations } from "../annotations/notes";
import { drawing } from "../editor/actions";
import { useCatalogue } from "../editor/catalogue";
import { useFigures, useShownLook } from "../editor/figures";
import { useEditorStore } from "../editor/tools";
import { extent, joined } from "../model/geometry";
import { fitted, type Size, type View, zoomed } from "../model/view";

const EDGE = 12; // px between the sheet's edge and what lies over it

/** px of the sheet that what lies over it at one of its ends takes. */
function heightOver(sheet: Element | null, end: "top" | "bottom"): number {
  const over = sheet?.parentElement?.querySelector<HTMLElement>(`[data-over=${end}]`);
  return over ? over.offsetHeight + EDGE : 0;
}

export function useSheetView(
  place: RefObject<HTMLElement | null>,
  size: Size,
  notes: Annotations["notes"],
) {
  const catalogue = useCatalogue();
  const look = useShownLook();
  const id = useExercise((state) => state.id);
  const inside = useExercise((state) => state.inside);
  const layers = useEditorStore((state) => state.layers);
  const [view, setView] = useState<View>({ x: -20, y: -20, scale: 12 });
  const fittedFor = useRef<{ shown: string; inside: string | null; height: number }>({
    shown: "",
    inside: null,
    height: 0,
  });
  /** Whether the view is still the fitted one, and so follows what is drawn and the page's size. */
  const untouched = useRef(true);
  const written = useRef(notes);
  written.current = notes;

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
  const figures = `${Object.values(layers).join()} ${useFigures(({ of, quantities }) => of && quantities?.length)}`;
  const told = useRef(figures);
  useEffect(() => {
    if (told.current === figures || !size.width) return;
    told.current = figures;
    const reserve = heightOver(place.current, "bottom");
    const leaves = notes.some(
      ({ box }) =>
        box.left < view.x ||
        box.right > view.x + size.width / view.scale ||
        box.top < view.y ||
        box.bottom > view.y + (size.height - reserve) / view.scale,
    );
    if (untouched.current && leaves) fit();
  }, [figures, notes, view, size, place, fit]);
  const lookAt = useCallback((change: View | ((view: View) => View)) => {
    untouched.current = false;
    setView(change);
  }, []);
  return { view, fit, zoom, lookAt };
}
