// Pass bands on a plot: the band itself, its corners, and how the curve falls off beside it.
import type uPlot from "uplot";
import type { BandLook } from "../../api/types";
import { engineering } from "../../ui/engineering";
import { FAMILY, type Inks } from "./inks";
import type { Pane } from "./panes";

const HALF = 7; // px of a line of writing, up and down from its middle
const AIR = 2; // px kept between a curve and what is written
const PLACES = [0.5, 0.3, 0.7, 0.85, 1]; // where a line's slope may be written: shares of the line
const LETTER = 5.4; // px, about, of a letter of what is written

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
  const corners: BandMarks["corners"] = [];
  const slopes: BandMarks["slopes"] = [];
  /** The line of `slope` through the curve's end, from there as far as the corner. */
  const beside = (corner: number | null, slope: number | null, k: 0 | 1) => {
    if (corner === null) return;
    corners.push({ x: x(corner), text: engineering(corner, "Hz") });
    const [end, size] = [band.ends[k], band.sizes[k]];
    if (slope === null || !(size > 0)) return;
    const rise = slope * Math.log10(corner / end);
    const y = (more: number) =>
      u.valToPos(inDecibels ? 20 * Math.log10(size) + more : size * 10 ** (more / 20), "y");
    slopes.push({
      from: [x(corner), y(rise)],
      to: [x(end), y(0)],
      text: `${engineering(slope, "", 3)} dB a decade`,
    });
  };
  beside(band.lower, band.slope_below, 0);
  beside(band.upper, band.slope_above, 1);
  return {
    pass: [
      Math.max(0, band.lower === null ? 0 : x(band.lower)),
      Math.min(width, band.upper === null ? width : x(band.upper)),
    ],
    corners,
    slopes,
  };
}

export function bandLayer(pane: () => Pane, { colour }: Inks): uPlot.Plugin {
  const passed = (u: uPlot, part: "lines" | "words") => {
    const { bands, unit } = pane();
    const own = { accent: colour("--accent"), paper: colour("--raised"), family: FAMILY };
    if (bands) banded(u, bands, { inDecibels: unit === "dB", part }, own);
  };
  return { hooks: { drawAxes: (u) => passed(u, "lines"), draw: (u) => passed(u, "words") } };
}

/** The band and its lines, under the curves; or, over them, what is written at these. */
function banded(
  u: uPlot,
  bands: BandLook[],
  { inDecibels, part }: { inDecibels: boolean; part: "lines" | "words" },
  { accent, paper, family }: { accent: string; paper: string; family: string },
): void {
  const { ctx, bbox } = u;
  const ratio = devicePixelRatio;
  const [width, height] = [bbox.width / ratio, bbox.height / ratio];
  const dashed = (x1: number, y1: number, x2: number, y2: number) => {
    ctx.beginPath();
    ctx.moveTo(x1, y1);
    ctx.lineTo(x2, y2);
    ctx.stroke();
  };
  const word = (text: string, x: number, y: number, align: CanvasTextAlign) => {
    ctx.textAlign = align;
    ctx.strokeText(text, x, y);
    ctx.fillText(text, x, y);
  };
  ctx.save();
  ctx.beginPath();
  ctx.rect(bbox.left, bbox.top, bbox.width, bbox.height);
  ctx.clip();
  ctx.translate(bbox.left, bbox.top);
  ctx.scale(ratio, ratio);
  ctx.font = `11px ${family}`;
  ctx.textBaseline = "middle";
  ctx.fillStyle = accent;
  for (const band of bands) {
    const { pass, corners, slopes } = marksOf(u, band, inDecibels);
    if (part === "lines") {
      ctx.globalAlpha = 0.1;
      ctx.fillRect(pass[0], 0, pass[1] - pass[0], height);
      ctx.globalAlpha = 1;
      ctx.strokeStyle = accent;
      ctx.lineWidth = 1;
      ctx.setLineDash([3, 3]);
      for (const { x } of corners) dashed(x, 0, x, height);
      for (const { from, to } of slopes) dashed(...from, ...to);
      continue;
    }
    ctx.strokeStyle = paper;
    ctx.lineWidth = 4;
    if (pass[1] - pass[0] > 64) word("pass band", (pass[0] + pass[1]) / 2, height - 10, "center");
    for (const { text, at, align } of wordsOf(corners, slopes, [width, height], freeOf(u)))
      word(text, ...at, align === "end" ? "right" : "left");
  }
  ctx.restore();
}

/** What is written at corners and slopes, and where: on the side away from the band. */
export function wordsOf(
  corners: BandMarks["corners"],
  slopes: BandMarks["slopes"],
  [width, height]: [number, number],
  isFree: (box: Room) => boolean,
): { text: string; at: [number, number]; align: "start" | "end" }[] {
  return [
    ...corners.map(({ x, text }, k) => {
      const isLeft = corners.length > 1 && k === 0;
      return {
        text,
        at: [x + (isLeft ? -5 : 5), height - 12] as [number, number],
        align: isLeft ? ("end" as const) : ("start" as const),
      };
    }),
    ...slopes.map(({ from, to, text }) => {
      const isFalling = to[0] > from[0];
      const long = LETTER * text.length;
      // Above the line, away from the band; else below it, towards the band.
      const places = [-8, 10].flatMap((side) =>
        PLACES.map((share) => {
          const begins = isFalling === side < 0;
          const x = from[0] + share * (to[0] - from[0]) + (begins ? 10 : -10);
          const kept = begins ? Math.min(x, width - long - 4) : Math.max(x, long + 4);
          const y = from[1] + share * (to[1] - from[1]) + side;
          const left = begins ? kept : kept - long;
          return {
            at: [kept, y] as [number, number],
            align: begins ? ("start" as const) : ("end" as const),
            room: { left, right: left + long, top: y - HALF, bottom: y + HALF },
          };
        }),
      );
      const apart = ({ left, right }: Room) => corners.every(({ x }) => x < left || x > right);
      const free = places.find(
        ({ room }) => room.top > 0 && room.bottom < height && apart(room) && isFree(room),
      );
      const { at, align } = free ?? (places[0] as (typeof places)[0]);
      return { text, at, align };
    }),
  ];
}

/** A place on the plot, px from its corner. */
interface Room {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** Whether no curve of the plot passes through a place. */
export function freeOf(u: uPlot): (box: Room) => boolean {
  const xs = (u.data[0] as number[]).map((x) => u.valToPos(x, "x"));
  const curves = u.data.slice(1).flatMap((values, k) => {
    const { show, scale } = u.series[k + 1] ?? {};
    if (!show || !scale) return [];
    return [(values as (number | null)[]).map((y) => (y === null ? null : u.valToPos(y, scale)))];
  });
  return ({ left, right, top, bottom }) =>
    curves.every((ys) => {
      let before = 0; // whether the point before was above (-1) or below (1)
      for (const [k, y] of ys.entries()) {
        const x = xs[k] as number;
        if (y === null || x < left - AIR || x > right + AIR) {
          before = 0;
          continue;
        }
        const side = y < top - AIR ? -1 : y > bottom + AIR ? 1 : 0;
        if (!side || side === -before) return false;
        before = side;
      }
      return true;
    });
}
