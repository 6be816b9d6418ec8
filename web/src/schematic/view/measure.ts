// Widths of texts on the drawing, in grid units.
import { useEffect, useState } from "react";
import type { Measure, Tone } from "../annotations/notes";

/** Font size of each tone, grid units. */
export const SIZE: Record<Tone, number> = {
  name: 1.3,
  value: 1.25,
  voltage: 1.25,
  current: 1.2,
  power: 1.15,
};
const PIXELS = 100; // size at which is measured

const context = document.createElement("canvas").getContext("2d");
const widths = new Map<string, number>();

const measureNow: Measure = (text, tone) => {
  const style = tone === "name" ? "italic" : "normal";
  const id = `${style} ${text}`;
  let width = widths.get(id);
  if (width === undefined && context) {
    context.font = `${style} ${PIXELS}px "Literata Variable"`;
    width = context.measureText(text).width / PIXELS;
    widths.set(id, width);
  }
  return (width ?? 0.6 * text.length) * SIZE[tone] + 0.05;
};

/** The measure, changed in identity when the fonts have come. */
export function useMeasure(): Measure {
  const [measure, setMeasure] = useState<Measure>(() => measureNow);
  useEffect(() => {
    const fonts = ['italic 10px "Literata Variable"', '10px "Literata Variable"'];
    Promise.all(fonts.map((font) => document.fonts.load(font, "R1 Ωµ"))).then(() => {
      widths.clear();
      setMeasure(() => (text: string, tone: Tone) => measureNow(text, tone));
    });
  }, []);
  return measure;
}
