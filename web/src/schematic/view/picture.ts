// The drawing as a picture of its own: SVG, with everything it needs inside, and PNG from that.
import { say } from "../../ui/Toasts";
import type { Box } from "../model/geometry";
import { openSheet } from "../model/openSheet";

const MARGIN = 2; // grid units around the drawing
const PIXELS = 24; // for each grid unit of a PNG
const LARGEST = 12_000; // px of a PNG's longer side
const FONT = '"Literata Variable", Georgia, "Times New Roman", serif';
const WANTED = /\.(stroke|solid|wire|sign|tone-|plate|flag|note\b)|^\.drawing/;

/** The drawing that is open, as SVG text; null while nothing is drawn. */
export const sheetPicture = (): string | null => openSheet()?.picture() ?? null;

export async function savePicture(type: "svg" | "png", title: string): Promise<void> {
  const name = title.trim().replace(/[^\p{L}\p{N}]+/gu, "-") || "schematic";
  const svg = sheetPicture();
  if (!svg) say("Nothing is drawn yet.");
  else if (type === "svg") save(svg, `${name}.svg`, "image/svg+xml");
  else save(await pngOf(svg), `${name}.png`, "image/png");
}

/** The sheet as SVG text, `box` and nothing of the page around it. */
export function svgOf(sheet: SVGSVGElement, box: Box): string {
  const copy = sheet.cloneNode(true) as SVGSVGElement;
  for (const gone of copy.querySelectorAll(
    "[data-role='wire'], [data-role='pin'], .halo, [data-handle]",
  ))
    gone.remove();
  for (const text of copy.querySelectorAll("foreignObject")) text.replaceWith(plain(text));
  for (const element of copy.querySelectorAll("*"))
    for (const { name } of [...element.attributes])
      if (/^(data-|aria-|role|tabindex)/.test(name)) element.removeAttribute(name);
  const width = box.right - box.left + 2 * MARGIN;
  const height = box.bottom - box.top + 2 * MARGIN;
  for (const name of [...copy.attributes].map((a) => a.name)) copy.removeAttribute(name);
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("viewBox", `${box.left - MARGIN} ${box.top - MARGIN} ${width} ${height}`);
  copy.setAttribute("width", `${(width * PIXELS) / 2}`);
  copy.setAttribute("height", `${(height * PIXELS) / 2}`);
  copy.setAttribute("font-family", FONT);
  const style = document.createElementNS("http://www.w3.org/2000/svg", "style");
  style.textContent = rules();
  copy.prepend(style);
  const text = new XMLSerializer().serializeToString(copy);
  return resolved(`<?xml version="1.0" encoding="UTF-8"?>\n${text}\n`);
}

/** The page's own rules for what is drawn. */
function rules(): string {
  const found: string[] = [];
  const gather = (list: CSSRuleList) => {
    for (const rule of list)
      if (rule instanceof CSSStyleRule && WANTED.test(rule.selectorText)) {
        if (!/:hover|:focus|data-/.test(rule.selectorText)) found.push(rule.cssText);
      } else if (rule instanceof CSSLayerBlockRule) gather(rule.cssRules);
  };
  for (const sheet of document.styleSheets) gather(sheet.cssRules);
  return found.join("\n");
}

/** Colours in place of the page's variables. */
export function resolved(text: string): string {
  const style = getComputedStyle(document.documentElement);
  return text.replace(/var\((--[\w-]+)\)/g, (whole, name) => {
    const value = style.getPropertyValue(name).trim();
    return value.replace(/"/g, "'") || whole;
  });
}

function plain(note: Element): Element {
  const group = document.createElementNS("http://www.w3.org/2000/svg", "g");
  const [x, y] = [Number(note.getAttribute("x")), Number(note.getAttribute("y"))];
  note.querySelectorAll("p").forEach((line, row) => {
    const text = document.createElementNS("http://www.w3.org/2000/svg", "text");
    text.setAttribute("x", String(x));
    text.setAttribute("y", String(y + 1.3 + 1.9 * row));
    text.setAttribute("font-size", "1.25");
    text.setAttribute("class", "tone-value");
    // What is typeset has its source beside it, which is what a plain text can show.
    const copy = line.cloneNode(true) as Element;
    for (const maths of copy.querySelectorAll(".katex")) {
      const source = maths.querySelector("annotation")?.textContent ?? "";
      maths.replaceWith(source.replace("\\displaystyle ", ""));
    }
    text.textContent = copy.textContent;
    group.append(text);
  });
  return group;
}

export function save(content: Blob | string, name: string, type: string): void {
  const blob = typeof content === "string" ? new Blob([content], { type }) : content;
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

export async function pngOf(svg: string): Promise<Blob> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  await image.decode();
  const scale = Math.min(2, LARGEST / Math.max(image.width, image.height, 1));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(image.width * scale);
  canvas.height = Math.round(image.height * scale);
  const context = canvas.getContext("2d");
  if (!context) throw new Error("This browser cannot paint a picture.");
  context.fillStyle = getComputedStyle(document.documentElement).getPropertyValue("--paper");
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (blob) => (blob ? resolve(blob) : reject(new Error("No picture came."))),
      "image/png",
    ),
  );
}
