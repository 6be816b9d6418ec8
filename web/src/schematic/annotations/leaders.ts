// The thin line from a text to what it speaks of, where there was no room beside it.
import type { Point } from "../../api/types";
import { type Box, overlap, spanned } from "../model/geometry";

const STEP = 0.05; // grid units between the places of a line that are looked at

/** From a text to the nearest of what it speaks of, or to the caption that stands in the way. */
export function leaderOf(text: Box, target: Box, caption?: Box): [Point, Point] {
  const near = nearestIn(text, [
    (target.left + target.right) / 2,
    (target.top + target.bottom) / 2,
  ]);
  const line: [Point, Point] = [near, nearestIn(target, near)];
  if (!caption || !crosses(line, caption)) return line;
  const edge = nearestIn(text, [
    (caption.left + caption.right) / 2,
    (caption.top + caption.bottom) / 2,
  ]);
  return [edge, nearestIn(caption, edge)];
}

/** Whether a line comes through a box. */
function crosses([[x, y], [toX, toY]]: [Point, Point], box: Box): boolean {
  const steps = Math.ceil(Math.hypot(toX - x, toY - y) / STEP);
  for (let k = 0; k <= steps; k++) {
    const here: Point = [x + (k / steps) * (toX - x), y + (k / steps) * (toY - y)];
    if (overlap(spanned(here, here), box)) return true;
  }
  return false;
}

export function nearestIn(box: Box, [x, y]: Point): Point {
  return [Math.min(Math.max(x, box.left), box.right), Math.min(Math.max(y, box.top), box.bottom)];
}
