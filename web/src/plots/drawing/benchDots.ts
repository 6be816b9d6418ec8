// What the bench says, as dots with error bars over the curves, and the band within which they may lie.
import type uPlot from "uplot";
import type { Inks } from "./inks";

/** One measured curve in a plot, in the plot's own unit; `formula` and `member` are what a marker on it
 * is told by. */
export interface Dots {
  name: string;
  formula: string;
  member: string;
  x: number[];
  y: number[];
  /** Half the length of the bars. */
  errors: number[];
  /** Dots of two curves in one plot are told apart by their shape. */
  isSquare: boolean;
  scale: "y" | "side";
}

/** Half the height of a band about zero. */
export interface Band {
  x: number[];
  half: number[];
}

const RADIUS = 2.6; // px
const CROWDED = 3; // px between dots, below which their bars are left out
const WHISKER = 2.5; // px

export const benchLayer = (
  dots: () => Dots[],
  band: () => Band | null,
  { colour }: Inks,
): uPlot.Plugin => ({
  hooks: {
    drawAxes: (u) => banded(u, band(), colour("--accent")),
    draw: (u) => {
      for (const each of dots()) dotted(u, each, colour("--bench"), colour("--raised"));
    },
  },
});

/** The least and the largest of all dots on a scale, their bars included; null without any. */
export function reachOf(dots: Dots[], scale: "y" | "side"): [number, number] | null {
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const each of dots)
    if (each.scale === scale)
      each.y.forEach((y, k) => {
        const by = each.errors[k] ?? 0;
        if (!Number.isFinite(y)) return;
        low = Math.min(low, y - by);
        high = Math.max(high, y + by);
      });
  return low <= high ? [low, high] : null;
}

function clipped(u: uPlot, draw: (ctx: CanvasRenderingContext2D) => void): void {
  const { ctx, bbox } = u;
  ctx.save();
  ctx.beginPath();
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height);
  ctx.clip();
  draw(ctx);
  ctx.restore();
}

function banded(u: uPlot, band: Band | null, hue: string): void {
  if (!band?.x.length) return;
  clipped(u, (ctx) => {
    ctx.globalAlpha = 0.14;
    ctx.fillStyle = hue;
    ctx.beginPath();
    band.x.forEach((x, k) => {
      ctx.lineTo(u.valToPos(x, "x", true), u.valToPos(band.half[k] ?? 0, "y", true));
    });
    for (let k = band.x.length - 1; k >= 0; k--)
      ctx.lineTo(
        u.valToPos(band.x[k] as number, "x", true),
        u.valToPos(-(band.half[k] ?? 0), "y", true),
      );
    ctx.fill();
  });
}

function dotted(
  u: uPlot,
  { x, y, errors, isSquare, scale }: Dots,
  hue: string,
  paper: string,
): void {
  const ratio = devicePixelRatio;
  const inView = x.flatMap((at, k) => {
    const value = y[k];
    if (value === undefined || !Number.isFinite(value)) return [];
    const px = u.valToPos(at, "x", true);
    if (px < u.bbox.left - 5 || px > u.bbox.left + u.bbox.width + 5) return [];
    return [{ px, value, error: errors[k] ?? 0 }];
  });
  const isCrowded = inView.length * CROWDED * ratio > u.bbox.width;
  const radius = (isCrowded ? 1.2 : RADIUS) * ratio;
  clipped(u, (ctx) => {
    ctx.strokeStyle = ctx.fillStyle = hue;
    ctx.lineWidth = ratio;
    for (const { px, value, error } of inView) {
      const py = u.valToPos(value, scale, true);
      const [top, bottom] = [value + error, value - error].map((v) => u.valToPos(v, scale, true));
      if (!isCrowded && top !== undefined && bottom !== undefined && bottom - top > 2 * radius) {
        ctx.beginPath();
        ctx.moveTo(px, top);
        ctx.lineTo(px, bottom);
        for (const end of [top, bottom]) {
          ctx.moveTo(px - WHISKER * ratio, end);
          ctx.lineTo(px + WHISKER * ratio, end);
        }
        ctx.stroke();
      }
      ctx.beginPath();
      if (isSquare) ctx.rect(px - radius, py - radius, 2 * radius, 2 * radius);
      else ctx.arc(px, py, radius, 0, 2 * Math.PI);
      if (!isCrowded) {
        ctx.strokeStyle = paper;
        ctx.stroke();
        ctx.strokeStyle = hue;
      }
      ctx.fill();
    }
  });
}
