// A run as a picture of its own: what it is of, the circuit, the plots, and what stands at the markers.
import type { Exercise } from "../api/types";
import { escaped } from "../plots/drawing/plotPicture";
import { resolved } from "../schematic/view/picture";

const [WIDTH, EDGE, LINE] = [760, 24, 18]; // px
const LARGEST = 1.4; // times its own size a picture is
const CIRCUIT = 260; // px that the circuit is high, at most

export interface RunPictured {
  exercise: Exercise;
  /** What the run is called, and its conditions. */
  run: string;
  conditions: string;
  circuit: string | null;
  /** SVG texts, one below the other. */
  pictures: string[];
  /** What stands at the markers, line by line. */
  readout: string[];
}

/** Who and what a picture is of, as it stands at its head and on paper. */
export function headOf({ title, author, group, number }: Exercise): string[] {
  const first = [number, title || "Untitled"].filter(Boolean).join(" ");
  return [first, [author, group].filter(Boolean).join(", ")].filter(Boolean);
}

export function svgOfRun({
  exercise,
  run,
  conditions,
  circuit,
  pictures,
  readout,
}: RunPictured): string {
  const out: string[] = [];
  let top = EDGE;
  const line = (words: string, size = 12, ink = "var(--ink)") => {
    top += size > 14 ? LINE + 4 : LINE;
    out.push(
      `<text x="${EDGE}" y="${top - 5}" font-size="${size}" fill="${ink}">${escaped(words)}</text>`,
    );
  };
  const inset = (svg: string, tallest: number) => {
    const box = /<svg[^>]* width="([\d.]+)"[^>]* height="([\d.]+)"/.exec(svg);
    const [width, height] = [Number(box?.[1] ?? WIDTH), Number(box?.[2] ?? CIRCUIT)];
    const scale = Math.min((WIDTH - 2 * EDGE) / width, tallest / height, LARGEST);
    const [w, h] = [width * scale, height * scale];
    const placed = svg
      .replace(/^<\?xml[^>]*>\s*/, "")
      .replace(/ width="[\d.]+"/, ` x="${EDGE}" y="${top}" width="${w}"`)
      .replace(/ height="[\d.]+"/, ` height="${h}"`);
    out.push(placed);
    top += h + 10;
  };
  const [name = "", who] = headOf(exercise);
  line(name, 18);
  if (who) line(who, 12, "var(--ink-soft)");
  top += 6;
  if (circuit) inset(circuit, CIRCUIT);
  line(run, 15);
  line(conditions, 12, "var(--ink-soft)");
  for (const picture of pictures) inset(picture, Number.POSITIVE_INFINITY);
  for (const words of readout) line(words);
  const height = Math.round(top + EDGE);
  return resolved(
    `<?xml version="1.0" encoding="UTF-8"?>
<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${height}" viewBox="0 0 ${WIDTH} ${height}" font-family="'Commissioner Variable', sans-serif">
<rect width="${WIDTH}" height="${height}" fill="var(--raised)"/>
${out.join("\n")}
</svg>
`,
  );
}
