// The texts a drawing asks for: what stands beside parts, names of nodes, and their figures.
import type { Evaluation, Part, QuantityLook, Schematic } from "../../api/types";
import { type Box, bodyOf, type Catalogue, kindOf, same, shifted } from "../model/geometry";
import { arrowBox } from "./arrows";
import type { Request } from "./layout";
import type { Arrow, Layers, Line, Place, Tone } from "./notes";
import { around, besidePoint, endPlaces, NetPlaces } from "./places";

type Figures = ReadonlyMap<string, QuantityLook>;

/** In the order in which they choose their places. */
export function* texts(
  schematic: Schematic,
  look: Evaluation | null,
  catalogue: Catalogue,
  layers: Layers,
  figures: Figures,
  heads: Arrow[],
): Generator<Request> {
  yield* captions(schematic, look, catalogue);
  yield* names(schematic, look, layers.voltage ? figures : new Map());
  if (layers.voltage) yield* voltages(schematic, look, catalogue, figures);
  if (layers.current) yield* currents(heads, figures);
  if (layers.power) yield* powers(schematic, catalogue, figures);
}

const isUpright = (part: Part) => part.rotation === 90 || part.rotation === 270;

function* captions(
  schematic: Schematic,
  look: Evaluation | null,
  catalogue: Catalogue,
): Generator<Request> {
  const told = new Map(look?.parts.map((part) => [part.id, part.caption]));
  for (const part of schematic.parts) {
    if (part.kind === "ground") continue;
    const kind = kindOf(part, catalogue);
    const value = told.get(part.id) ?? (kind?.main ? part.values[kind.main] : "") ?? "";
    const name: Line = { text: part.name, tone: "name" };
    const words: Line[] = value ? [{ text: value, tone: "value" }] : [];
    const narrow = isUpright(part) || (kind?.pins.length ?? 0) > 2;
    // The values of a block stand one below the other.
    const several = part.kind === "block" ? value.split(", ") : [];
    const lines = several[1]
      ? [[name], ...several.map((text): Line[] => [{ text, tone: "value" }])]
      : narrow && value
        ? [[name], words]
        : [[name, ...words]];
    yield {
      note: { id: `part ${part.id}`, owner: part.id, quantity: null, lines },
      places: () => around(bodyOf(part, catalogue), narrow),
      ...(part.caption ? { corner: shifted(part.at, part.caption) } : {}),
    };
  }
}

function* names(
  schematic: Schematic,
  look: Evaluation | null,
  figures: Figures,
): Generator<Request> {
  const shown = new Set<string>();
  const nodes = new Set(look?.nets.map((net) => net.name));
  for (const label of schematic.labels) {
    const figure = shown.has(label.name) ? undefined : figures.get(`V_${label.name}`);
    shown.add(label.name);
    const line: Line[] = [{ text: label.name, tone: "name" }];
    if (figure) line.push({ text: figure.text, tone: "voltage" });
    const quantity = nodes.has(label.name) ? `V_${label.name}` : null;
    const note = { id: `label ${label.id}`, owner: label.id, quantity, lines: [line] };
    const [x, y] = label.at;
    if (label.style === "supply") {
      const above: Place = { at: [x, y - 1.2], hold: "above" };
      yield { note, places: () => [above, ...besidePoint([x, y - 1])] };
      continue;
    }
    const isEnd = schematic.wires.some(({ points }) =>
      [points[0], points.at(-1)].some((end) => end && same(end, label.at)),
    );
    const places = () => (isEnd ? endPlaces(schematic, label.at) : besidePoint(label.at));
    yield { note: { ...note, flag: true }, places };
  }
}

function* voltages(
  schematic: Schematic,
  look: Evaluation | null,
  catalogue: Catalogue,
  figures: Figures,
): Generator<Request> {
  const places = new NetPlaces(schematic, catalogue);
  for (const net of look?.nets ?? []) {
    const figure = figures.get(`V_${net.name}`);
    if (!figure || net.named || net.ground) continue;
    const line: Line[] = [
      { text: net.name, tone: "name" },
      { text: figure.text, tone: "voltage" },
    ];
    // Names given by number go over to other nodes as some come and go; a pin does not.
    const id = `node ${net.pins[0] ?? net.wires[0]}`;
    yield {
      note: { id, owner: null, quantity: figure.name, lines: [line] },
      places: () => places.beside(net),
      fits: (place) => places.has(net, place),
    };
  }
}

function* currents(heads: Arrow[], figures: Figures): Generator<Request> {
  for (const arrow of heads) {
    const figure = figures.get(arrow.quantity);
    if (!figure) continue;
    const upright = arrow.towards[0] === 0;
    yield written(arrow.part, figure, "current", figure.magnitude, arrowBox(arrow), upright, 4);
  }
}

function* powers(schematic: Schematic, catalogue: Catalogue, figures: Figures): Generator<Request> {
  for (const part of schematic.parts) {
    const figure = figures.get(`P_${part.name}`);
    if (!figure?.flow) continue;
    const text = `${figure.flow < 0 ? "gives" : "takes"} ${figure.magnitude}`;
    const body = bodyOf(part, catalogue);
    yield {
      ...written(part, figure, "power", text, body, isUpright(part), 7),
      onlyClear: true,
    };
  }
}

/** A figure of a part, written as near as may be to `box`. */
function written(
  part: Part,
  figure: QuantityLook,
  tone: Tone,
  text: string,
  box: Box,
  upright: boolean,
  steps: number,
): Request {
  const note = { id: `${tone} ${figure.name}`, owner: part.id, quantity: figure.name };
  return {
    note: { ...note, lines: [[{ text, tone }]] },
    places: () => around(box, upright, steps),
  };
}
