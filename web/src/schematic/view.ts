// Where the sheet is looked at: pan, zoom, fit, and from screen to grid and back.
import { useCallback, useEffect, useRef, useState } from "react";
import type { Point } from "../api/types";
import { type Box, grown } from "./geometry";

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

const OVERSCAN = 0.4; // of the sheet's width and height, drawn beyond each edge
const REST = 140; // ms without a move after which the drawing is painted anew
const BLURRED = 3; // enlargement of what was painted that is put up with until then

/** How the drawing is painted: at a view of its own, and moved to where it is looked at.
 *
 * Painting takes longer than a frame, moving what is painted does not.
 */
export function useLayer(view: View, size: Size) {
  const [kept, setKept] = useState(view);
  const painted = isFar(kept, view, size) ? view : kept;
  useEffect(() => {
    if (painted === view) {
      setKept(view);
      return;
    }
    const timer = setTimeout(() => setKept(view), REST);
    return () => clearTimeout(timer);
  }, [painted, view]);
  const over = { x: Math.round(OVERSCAN * size.width), y: Math.round(OVERSCAN * size.height) };
  const width = size.width + 2 * over.x;
  const height = size.height + 2 * over.y;
  const growth = view.scale / painted.scale;
  const left = over.x * (1 - growth) + (painted.x - view.x) * view.scale;
  const top = over.y * (1 - growth) + (painted.y - view.y) * view.scale;
  return {
    painted: {
      ...painted,
      x: painted.x - over.x / painted.scale,
      y: painted.y - over.y / painted.scale,
    },
    width,
    height,
    style: {
      left: -over.x,
      top: -over.y,
      // Kept as a picture only while it moves: at rest it is painted sharp.
      ...(painted === view
        ? {}
        : {
            willChange: "transform",
            transform: `translate(${left}px, ${top}px) scale(${growth})`,
          }),
    },
  };
}

function isFar(painted: View, view: View, size: Size): boolean {
  const growth = view.scale / painted.scale;
  const [dx, dy] = [(view.x - painted.x) * painted.scale, (view.y - painted.y) * painted.scale];
  return (
    growth > BLURRED ||
    growth < 1 / (1 + 2 * OVERSCAN) ||
    Math.abs(dx) > OVERSCAN * size.width ||
    Math.abs(dy) > OVERSCAN * size.height
  );
}
