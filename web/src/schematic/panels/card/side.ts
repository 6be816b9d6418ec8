// On which side of a part its card opens: where it covers least of what one watches.
import type { Box } from "../../model/geometry";

export type Side = "right" | "left" | "bottom" | "top";

const [WIDTH, HEIGHT, LOW, GAP] = [320, 330, 120, 14]; // px; a card of a part is as high as HEIGHT
const OUTSIDE = 4; // how much worse than covering the drawing it is to hang out of the page

/** All boxes in px of the page; `isPart` cards are higher than those of names. */
export function sideFor(of: Box, boxes: Box[], page: Box, isPart: boolean): Side {
  const height = isPart ? HEIGHT : LOW;
  const [x, y] = [(of.left + of.right) / 2, (of.top + of.bottom) / 2];
  const beside = Math.min(Math.max(y - height / 2, page.top), page.bottom - height);
  const over = Math.min(Math.max(x - WIDTH / 2, page.left), page.right - WIDTH);
  const corners: [Side, number, number][] = [
    ["right", of.right + GAP, beside],
    ["left", of.left - GAP - WIDTH, beside],
    ["bottom", over, of.bottom + GAP],
    ["top", over, of.top - GAP - height],
  ];
  let best: Side = "right";
  let least = Number.POSITIVE_INFINITY;
  for (const [side, left, top] of corners) {
    const card = { left, top, right: left + WIDTH, bottom: top + height };
    const hidden = boxes.reduce((sum, box) => sum + common(card, box), 0);
    const cost = hidden + OUTSIDE * (WIDTH * height - common(card, page));
    if (cost < least - 1) [best, least] = [side, cost];
  }
  return best;
}

function common(a: Box, b: Box): number {
  const width = Math.min(a.right, b.right) - Math.max(a.left, b.left);
  const height = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
  return Math.max(width, 0) * Math.max(height, 0);
}
