// Where the sheet is looked at: pan, zoom, fit, and from screen to grid and back.
import { useCallback, useEffect, useRef, useState } from "react";
import type { Point } from "../../api/types";
import { type Box, grown, joined } from "./geometry";

export interface View {
  /** Grid coordinates of the top left corner. */
  x: number;
  y: number;
  /** Pixels for each grid unit. */
  scale: number;
}

export interface Size {
  width: number;
  height: number;
}

const SMALLEST = 2;
const LARGEST = 60;
const COMFORTABLE = 13; // scale beyond which a fit does not enlarge
const MARGIN = 2; // grid units kept free around what is fitted

const clamped = (scale: number) => Math.min(Math.max(scale, SMALLEST), LARGEST);

export function fitted(box: Box | null, size: Size, reserve = { top: 0, bottom: 0 }): View {
  if (!box || !size.width) {
    return {
      x: -size.width / 2 / COMFORTABLE,
      y: -size.height / 2 / COMFORTABLE,
      scale: COMFORTABLE,
    };
  }
  const { left, top, right, bottom } = grown(box, MARGIN);
  const height = Math.max(size.height - reserve.top - reserve.bottom, 80);
  const scale = clamped(
    Math.min(size.width / (right - left), height / (bottom - top), COMFORTABLE),
  );
  return {
    x: (left + right) / 2 - size.width / 2 / scale,
    y: (top + bottom) / 2 - (reserve.top + height / 2) / scale,
    scale,
  };
}

export function zoomed(view: View, factor: number, about: { px: number; py: number }): View {
  const scale = clamped(view.scale * factor);
  return {
    x: view.x + about.px / view.scale - about.px / scale,
    y: view.y + about.py / view.scale - about.py / scale,
    scale,
  };
}

/** The size of an element, kept up to date. */
export function useSize<T extends Element>() {
  const place = useRef<T>(null);
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });
  useEffect(() => {
    if (!place.current) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    observer.observe(place.current);
    return () => observer.disconnect();
  }, []);
  return [place, size] as const;
}

export function useGrid(view: View, place: React.RefObject<Element | null>) {
  return useCallback(
    (event: { clientX: number; clientY: number }): Point => {
      const frame = place.current?.getBoundingClientRect();
      return [
        view.x + (event.clientX - (frame?.left ?? 0)) / view.scale,
        view.y + (event.clientY - (frame?.top ?? 0)) / view.scale,
      ];
    },
    [view, place],
  );
}

const MOUSE_WHEEL_NOTCH = 50; // px; smaller steps come from a trackpad and pan
const ZOOM_PER_PIXEL = { mouse: 0.0015, trackpad: 0.01 };

/** Wheel and trackpad: a mouse's wheel and a pinch zoom, two fingers pan. */
export function useWheel(
  place: React.RefObject<HTMLElement | null>,
  look: (change: (view: View) => View) => void,
): void {
  useEffect(() => {
    const element = place.current;
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const frame = element.getBoundingClientRect();
      const about = { px: event.clientX - frame.left, py: event.clientY - frame.top };
      const notch = !event.deltaX && Math.abs(event.deltaY) >= MOUSE_WHEEL_NOTCH;
      if (event.ctrlKey || notch)
        look((now) =>
          zoomed(
            now,
            Math.exp(-event.deltaY * ZOOM_PER_PIXEL[notch ? "mouse" : "trackpad"]),
            about,
          ),
        );
      else
        look((now) => ({
          ...now,
          x: now.x + event.deltaX / now.scale,
          y: now.y + event.deltaY / now.scale,
        }));
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [place, look]);
}

/** px of a grid unit in the drawing's own coordinates; the view scales what is painted. */
export const UNIT = 12;
const REST = 140; // ms without a move after which the drawing is painted anew
const BLURRED = 3; // enlargement or reduction of what was painted that is put up with until then

/** The part of the plane the drawing's own picture is of, in grid units: with room to spare, so that it
 * seldom changes. */
export function useRegion(drawn: Box | null): Box {
  const kept = useRef<Box>({ left: -SPARE, top: -SPARE, right: SPARE, bottom: SPARE });
  if (drawn && !holds(kept.current, drawn))
    kept.current = joined(kept.current, grown(drawn, SPARE));
  return kept.current;
}

const SPARE = 60;

const holds = (outer: Box, inner: Box) =>
  outer.left <= inner.left &&
  outer.top <= inner.top &&
  inner.right <= outer.right &&
  inner.bottom <= outer.bottom;

/** The scale the drawing is painted at, and whether it is moving.
 *
 * Painting takes longer than a frame, moving what is painted does not: while the view moves the
 * drawing is kept as a picture, and painted sharp when it comes to rest.
 */
export function usePainted(view: View): { scale: number; moving: boolean } {
  const [painted, setPainted] = useState(view);
  const growth = view.scale / painted.scale;
  const sharp = painted === view || growth > BLURRED || growth < 1 / BLURRED;
  useEffect(() => {
    if (painted === view) return;
    if (sharp) {
      setPainted(view);
      return;
    }
    const timer = setTimeout(() => setPainted(view), REST);
    return () => clearTimeout(timer);
  }, [painted, view, sharp]);
  return { scale: sharp ? view.scale : painted.scale, moving: !sharp };
}
