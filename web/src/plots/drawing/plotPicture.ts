// Plots as a picture of their own: SVG text with nothing outside it.
import type uPlot from "uplot";
import type { Marker } from "../../api/types";
import { LETTERS } from "../../document/runs";
import { resolved } from "../../schematic/view/picture";
import { pieces } from "../../ui/Named";
import { SIDE } from "./axes";
import { freeOf, marksOf, wordsOf } from "./bands";
import { inkOf, isDashed, scaleOf } from "./inks";
import { besideLine, endsOf, inkedAt, notesOf } from "./marks";
import type { Made } from "./Plot";
import type { Trace } from "./panes";

export const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (letter) => `&#${letter.charCodeAt(0)};`);

/** With what stands low set low. */
const typeset = (words: string) =>
  pieces(words)
    .map(({ text, isLow }, k, all) => {
      const down = isLow ? 3 : all[k - 1]?.isLow ? -3 : 0;
      return `<tspan dy="${down}"${isLow ? ' font-size="9"' : ""}>${escaped(text)}</tspan>`;
    })
    .join("");

/** The plots one below the other, with axes, grid, curves, their names and markers. */
export function svgOfPlots(plots: Made[], marks: Marker[]): string {
  const width = Math.max(...plots.map(({ u }) => u.width), 1);
  let top = 12;
  const pieces = plots.map(({ u, pane }) => {
    const piece = `<g transform="translate(0 ${top})">${plotOf(u, pane)}${marksOn(u, pane, marks)}</g>`;
    top += u.height + 16;
    return piece;
  });
  return resolved(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${top}" viewBox="0 0 ${width} ${top}" font-family="'Commissioner Variable', sans-serif" font-size="12">
${pieces.join("\n")}
</svg>
`,
  );
}

/** The markers: a line across the plot, and a dot on the curve each is on. */
function marksOn(u: uPlot, pane: Made["pane"], marks: Marker[]): string {
  const [left, top, width, height] = [u.bbox.left, u.bbox.top, u.bbox.width, u.bbox.height].map(
    (v) => v / devicePixelRatio,
  ) as [number, number, number, number];
  return marks
    .map((mark, k) => {
      const x = left + u.valToPos(mark.at, "x");
      if (x < left - 1 || x > left + width + 1) return "";
      const dots = pane.traces.map((trace, i) => {
        const y = inkedAt(u, pane, i, mark.at);
        if (trace.formula !== mark.curve || trace.member !== mark.member || y === null) return "";
        return `<circle cx="${round(x)}" cy="${round(top + y)}" r="4" fill="${hueOf(trace)}"/>`;
      });
      const { dx, leans } = besideLine(u, marks, k);
      return (
        `<path d="M${round(x)} ${round(top)}V${round(top + height)}" stroke="var(--ink)"/>` +
        `<text x="${round(x + dx)}" y="${round(top + 12)}" text-anchor="${leans ? "end" : "start"}" fill="var(--ink)">${LETTERS[k]}</text>` +
        dots.join("")
      );
    })
    .join("");
}

function plotOf(u: uPlot, pane: Made["pane"]): string {
  const [left, top, width, height] = [u.bbox.left, u.bbox.top, u.bbox.width, u.bbox.height].map(
    (v) => v / devicePixelRatio,
  ) as [number, number, number, number];
  const out: string[] = [];
  const text = (x: number, y: number, words: string, anchor: string, fill = "var(--ink-soft)") =>
    out.push(
      `<text x="${round(x)}" y="${round(y)}" text-anchor="${anchor}" fill="${fill}">${typeset(words)}</text>`,
    );
  const line = (x1: number, y1: number, x2: number, y2: number) =>
    out.push(
      `<path d="M${round(x1)} ${round(y1)}L${round(x2)} ${round(y2)}" stroke="var(--hairline)"/>`,
    );
  u.axes.forEach((axis, k) => {
    // What the axis shows now: kept by the plot, though not among its declared fields.
    const { _splits, _values } = axis as { _splits?: number[]; _values?: string[] };
    _splits?.forEach((split, i) => {
      const words = _values?.[i] ?? "";
      if (k === 0) {
        const x = left + u.valToPos(split, "x");
        if (x < left - 1 || x > left + width + 1) return;
        line(x, top, x, top + height);
        if (words) text(x, top + height + 16, words, "middle");
      } else if (k === 1) {
        const y = top + u.valToPos(split, "y");
        line(left, y, left + width, y);
        if (words) text(left - 8, y + 4, words, "end");
      } else if (words) text(left + width + 8, top + u.valToPos(split, "side") + 4, words, "start");
    });
  });
  text(left + 4, top - 2, pane.title, "start");
  const clip = `c${Math.random().toString(36).slice(2)}`;
  out.push(
    `<clipPath id="${clip}"><rect x="${left}" y="${top}" width="${width}" height="${height}"/></clipPath>`,
  );
  for (const band of pane.bands ?? []) {
    const { pass, corners, slopes } = marksOf(u, band, pane.unit === "dB");
    const [from, to] = pass;
    out.push(
      `<rect x="${round(left + from)}" y="${round(top)}" width="${round(to - from)}" height="${round(height)}" fill="var(--accent)" fill-opacity="0.1"/>`,
    );
    const dashed = (x1: number, y1: number, x2: number, y2: number) =>
      out.push(
        `<path d="M${round(left + x1)} ${round(top + y1)}L${round(left + x2)} ${round(top + y2)}" stroke="var(--accent)" stroke-dasharray="3 3" clip-path="url(#${clip})"/>`,
      );
    for (const { x } of corners) dashed(x, 0, x, height);
    for (const { from: a, to: b } of slopes) dashed(...a, ...b);
    for (const { text: words, at, align } of wordsOf(corners, slopes, [width, height], freeOf(u)))
      text(left + at[0], top + at[1] + 4, words, align);
  }
  pane.traces.forEach((trace, k) => {
    const values = u.data[k + 1] as (number | null)[];
    let way = "";
    let pen = "M";
    values.forEach((value, i) => {
      if (value == null) {
        pen = "M";
        return;
      }
      const x = left + u.valToPos(u.data[0][i] as number, "x");
      way += `${pen}${round(x)} ${round(top + u.valToPos(value, scaleOf(trace)))}`;
      pen = "L";
    });
    out.push(
      `<path d="${way}" fill="none" stroke="${hueOf(trace)}" stroke-width="1.6"${isDashed(trace) ? ' stroke-dasharray="6 4"' : ""} clip-path="url(#${clip})"/>`,
    );
  });
  for (const { text: words, x, y, flips } of notesOf(u, pane)) {
    out.push(`<circle cx="${round(left + x)}" cy="${round(top + y)}" r="3" fill="var(--ink)"/>`);
    const at = left + x + (flips ? -7 : 7);
    text(at, top + y - 6, words, flips ? "end" : "start", "var(--ink)");
  }
  for (const { trace, y } of endsOf(u, pane))
    text(
      left + width + (pane.side ? SIDE + 2 : 6),
      top + y + 4,
      trace.label,
      "start",
      hueOf(trace),
    );
  return out.join("");
}

const hueOf = (trace: Trace) => `var(${inkOf(trace)})`;
const round = (v: number) => Math.round(v * 100) / 100;

/** A picture that stands on the page already, as a file of its own. */
export function svgOfFigure(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  const box = svg.viewBox.baseVal;
  copy.setAttribute("width", `${box.width}`);
  copy.setAttribute("height", `${box.height}`);
  copy.setAttribute("font-family", "'Commissioner Variable', sans-serif");
  for (const element of copy.querySelectorAll("[class]")) {
    if (element.classList.contains("italic")) element.setAttribute("font-style", "italic");
    element.removeAttribute("class");
  }
  copy.removeAttribute("class");
  return resolved(new XMLSerializer().serializeToString(copy));
}
