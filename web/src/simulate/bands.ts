// Pass bands on a plot: the band itself, its corners, and how the curve falls off beside it.
import type uPlot from "uplot";
import type { BandLook } from "../api/types";
import { engineering } from "../ui/engineering";

export interface BandMarks {
  /** From, to [px from the plot's left]. */
  pass: [number, number];
  corners: { x: number; text: string }[];
  /** The straight lines beside the band, in px from the plot's corner. */
  slopes: { from: [number, number]; to: [number, number]; text: string }[];
}

/** Where the marks of a band lie on the plot as it is looked at. */
export function marksOf(u: uPlot, band: BandLook, inDecibels: boolean): BandMarks {
  const ratio = devicePixelRatio;
  const width = u.bbox.width / ratio;
  const x = (at: number) => u.valToPos(at, "x");
  const [low, high] = [u.scales.x?.min ?? 1, u.scales.x?.max ?? 1];
  const level = inDecibels ? 20 * Math.log10(band.level) : band.level;
  const size = (corner: number, at: number, slope: number) => {
    const decibels = slope * Math.log10(at / corner);
    return inDecibels ? level + decibels : level * 10 ** (decibels / 20);
  };
  const corners: BandMarks["corners"] = [];
  const slopes: BandMarks["slopes"] = [];
  const beside = (corner: number | null, slope: number | null, end: number) => {
    if (corner === null) return;
    corners.push({ x: x(corner), text: engineering(corner, "Hz") });
    if (slope === null || !(end > 0) || (end - corner) * (high - low) === 0) return;
    slopes.push({
      from: [x(corner), u.valToPos(level, "y")],
      to: [x(end), u.valToPos(size(corner, end, slope), "y")],
      text: `${engineering(slope, "", 3)} dB a decade`,
    });
  };
  beside(band.lower, band.slope_below, low);
  beside(band.upper, band.slope_above, high);
  return {
    pass: [
      Math.max(0, band.lower === null ? 0 : x(band.lower)),
      Math.min(width, band.upper === null ? width : x(band.upper)),
    ],
    corners,
    slopes,
  };
}

/** Drawn under the curves. */
export function banded(
  u: uPlot,
  bands: BandLook[],
  inDecibels: boolean,
  accent: string,
  family: string,
): void {
  const { ctx, bbox } = u;
  const ratio = devicePixelRatio;
  ctx.save();
  ctx.beginPath();
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height);
  ctx.clip();
  ctx.translate(bbox.left, bbox.top);
  ctx.font = `${11 * ratio}px ${family}`;
  ctx.fillStyle = accent;
  ctx.strokeStyle = accent;
  ctx.lineWidth = ratio;
  const height = bbox.height;
  for (const band of bands) {
    const { pass, corners, slopes } = marksOf(u, band, inDecibels);
    ctx.globalAlpha = 0.1;
    ctx.fillRect(pass[0] * ratio, 0, (pass[1] - pass[0]) * ratio, height);
    ctx.globalAlpha = 1;
    ctx.textAlign = "center";
    ctx.textBaseline = "bottom";
    if (pass[1] - pass[0] > 64)
      ctx.fillText("pass band", ((pass[0] + pass[1]) / 2) * ratio, height - 4 * ratio);
    ctx.setLineDash([3 * ratio, 3 * ratio]);
    corners.forEach(({ x, text }, k) => {
      ctx.beginPath();
      ctx.moveTo(x * ratio, 0);
      ctx.lineTo(x * ratio, height);
      ctx.stroke();
      const isLeft = corners.length > 1 && k === 0;
      ctx.textAlign = isLeft ? "right" : "left";
      ctx.fillText(text, (x + (isLeft ? -5 : 5)) * ratio, height - 18 * ratio);
    });
    for (const { from, to, text } of slopes) {
      ctx.beginPath();
      ctx.moveTo(from[0] * ratio, from[1] * ratio);
      ctx.lineTo(to[0] * ratio, to[1] * ratio);
      ctx.stroke();
      const isFalling = to[0] > from[0];
      ctx.textAlign = isFalling ? "right" : "left";
      const [mx, my] = [0.45 * from[0] + 0.55 * to[0], 0.45 * from[1] + 0.55 * to[1]];
      ctx.fillText(text, (mx + (isFalling ? -8 : 8)) * ratio, (my + 4) * ratio);
    }
    ctx.setLineDash([]);
  }
  ctx.restore();
}
