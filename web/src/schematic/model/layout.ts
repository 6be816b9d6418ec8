// Laying out a circuit that has no drawing: sources left, ground below, signal from left to right.
//
// Placing and routing are the layered algorithm of the Eclipse Layout Kernel (Sugiyama, Tagawa and
// Toda, IEEE Transactions on Systems, Man and Cybernetics 11, 1981). Ground is a sign at each pin that
// is on it, and does not take part.
import type { ELK as Elk, ElkNode } from "elkjs/lib/elk-api";
import type { Kind, NumberedNode, Part, PlacedOn, Point, Schematic, Wire } from "../../api/types";
import {
  bodyOf,
  type Catalogue,
  joined,
  key,
  kindOf,
  onSegment,
  pinsOf,
  same,
  spanned,
} from "./geometry";
import { simplified } from "./route";
import { tidied } from "./wires";

const GROUND = "0";
const STUB = 2; // grid units from a pin to its ground sign
const MARGIN = 2;
const CAPTION = 5; // grid units kept beside a part for its name and value
const GAP = 4;

interface Located {
  part: Part;
  nodes: string[];
  /** From the frame's upper left corner to the part's origin. */
  origin: Point;
  size: Point;
}

/** The parts with places, wires between them, grounds and names. */
export async function laidOut(network: PlacedOn[], catalogue: Catalogue): Promise<Schematic> {
  const { default: ELK } = await import("elkjs/lib/elk.bundled.js");
  const elk: Elk = new ELK();
  const supplies = suppliesOf(network);
  const located = network.map((item) =>
    frame(oriented(item, supplies, catalogue), supplies, catalogue),
  );
  const found = await elk.layout(graph(located, supplies, catalogue));
  const places = new Map(found.children?.map((child) => [child.id, child]));
  const parts = located.map(({ part, origin }) => {
    const place = places.get(part.id);
    const [x, y] = [Math.round(place?.x ?? 0), Math.round(place?.y ?? 0)];
    return { ...part, at: [x + origin[0], y + origin[1]] as Point };
  });
  const wires = wiresOf(found, located, parts, catalogue);
  const grounds: Part[] = [];
  const labels: Schematic["labels"] = [];
  const named = new Set<string>();
  parts.forEach((part, i) => {
    pinsOf(part, catalogue).forEach((pin, index) => {
      const node = located[i]?.nodes[index];
      if (node === GROUND) ground(pin.at, pin.outward, grounds, wires, catalogue);
      else if (node && supplies.has(node))
        labels.push({
          id: `l${labels.length + 1}`,
          name: node,
          at: led(pin.at, pin.outward, -1, wires),
          style: "supply",
        });
      else if (node && !/^n?\d+$/.test(node) && !named.has(node)) {
        named.add(node);
        labels.push({ id: `l${labels.length + 1}`, name: node, at: pin.at, style: "name" });
      }
    });
  });
  const nodes = numbersOf(located);
  const whole = { parts: [...parts, ...grounds], wires, junctions: [], labels, notes: [], nodes };
  return tidied(whole, catalogue);
}

/** Nodes with a number for a name go by it on the drawing as well: 3 and n3 as n3. */
function numbersOf(located: Located[]): NumberedNode[] {
  const found = new Map<string, NumberedNode>();
  for (const { part, nodes } of located)
    nodes.forEach((node, index) => {
      if (!/^n?[1-9]\d{0,5}$/.test(node)) return;
      const name = node.startsWith("n") ? node : `n${node}`;
      const there = found.get(name) ?? { name, pins: [] };
      there.pins.push([part.id, index]);
      found.set(name, there);
    });
  return [...found.values()];
}

/** Nodes held by a source to ground that several parts hang on: drawn as flags, not as wires. */
function suppliesOf(network: PlacedOn[]): Set<string> {
  const found = new Set<string>();
  for (const { part, nodes } of network) {
    if (part.kind !== "voltage_source" || part.form || !nodes.includes(GROUND)) continue;
    const node = nodes.find((name) => name !== GROUND);
    const hanging = network.filter((other) => node && other.nodes.includes(node)).length - 1;
    if (node && hanging >= 2) found.add(node);
  }
  return found;
}

/** Two-pin parts stand where one end is ground, and lie where the signal goes through. */
function oriented(
  { part, nodes }: PlacedOn,
  supplies: Set<string>,
  catalogue: Catalogue,
): PlacedOn {
  const kind = kindOf(part as Part, catalogue) as Kind;
  if (kind.pins.length !== 2) return { part, nodes };
  const grounded = nodes.indexOf(GROUND);
  const isSource = kind.rotation !== 0;
  const supplied = nodes.findIndex((node) => supplies.has(node));
  if (grounded < 0 && supplied < 0 && !isSource) return { part, nodes };
  const upright = grounded === 1 || supplied === 0 ? 90 : 270;
  const rotation = grounded < 0 && supplied < 0 ? kind.rotation : upright;
  return { part: { ...part, rotation: rotation as Part["rotation"] }, nodes };
}

function frame({ part, nodes }: PlacedOn, supplies: Set<string>, catalogue: Catalogue): Located {
  const there = { ...part, at: [0, 0] } as Part;
  const pins = pinsOf(there, catalogue);
  const body = bodyOf(there, catalogue);
  let box = [body, ...pins.map((pin) => spanned(pin.at, pin.at))].reduce(joined);
  pins.forEach((pin, index) => {
    const node = nodes[index] as string;
    if (supplies.has(node)) {
      const [x, y] = pin.at;
      const head: Point = [x + STUB * pin.outward[0], y - (pin.outward[0] ? 1 : 0)];
      box = joined(box, spanned([head[0] - 2, head[1] - 4], [head[0] + 2, head[1]]));
    }
    if (node !== GROUND) return;
    const foot: Point = [
      pin.at[0] + STUB * pin.outward[0],
      pin.at[1] + STUB * (pin.outward[1] || 1),
    ];
    box = joined(box, spanned([foot[0] - 1, foot[1]], [foot[0] + 1, foot[1] + 2]));
  });
  const [left, top] = [Math.floor(box.left), Math.floor(box.top)];
  const size: Point = [Math.ceil(box.right) - left, Math.ceil(box.bottom) - top];
  return { part: there, nodes, origin: [-left, -top], size };
}

function graph(located: Located[], supplies: Set<string>, catalogue: Catalogue): ElkNode {
  const byNode = new Map<string, string[]>();
  const children = located.map((item) => {
    const { part, nodes, origin, size } = item;
    const stands = standing(item, supplies);
    const ports = pinsOf(part, catalogue).flatMap((pin, index) => {
      const node = nodes[index];
      if (!node || node === GROUND || supplies.has(node)) return [];
      const id = `${part.id}:${index}`;
      byNode.set(node, [...(byNode.get(node) ?? []), id]);
      return [
        {
          id,
          x: pin.at[0] + origin[0],
          y: pin.at[1] + origin[1],
          width: 0,
          height: 0,
          layoutOptions: { "port.side": sideOf(pin.outward) },
        },
      ];
    });
    const isSource = part.kind.endsWith("_source");
    return {
      id: part.id,
      width: size[0] + (size[0] > size[1] ? 0 : CAPTION),
      height: size[1],
      ports,
      layoutOptions: {
        "elk.portConstraints": "FIXED_POS",
        ...(isSource && nodes.includes(GROUND)
          ? { "elk.layered.layering.layerConstraint": "FIRST" }
          : {}),
        // In a column, what hangs on a supply is above, what stands on ground below, transistors between.
        ...(!isSource && (stands || nodes.length > 2)
          ? { "elk.position": `(0, ${1000 * stands})` }
          : {}),
      },
    };
  });
  const edges = [...byNode.values()].flatMap(([first, ...others]) =>
    others.map((other) => ({
      id: `${first} ${other}`,
      sources: [first as string],
      targets: [other],
    })),
  );
  return {
    id: "sheet",
    children,
    edges,
    layoutOptions: {
      "elk.algorithm": "layered",
      "elk.direction": "RIGHT",
      "elk.edgeRouting": "ORTHOGONAL",
      "elk.layered.crossingMinimization.semiInteractive": "true",
      "elk.spacing.nodeNode": String(GAP),
      "elk.spacing.componentComponent": String(GAP),
      "elk.layered.spacing.nodeNodeBetweenLayers": String(GAP),
      "elk.spacing.edgeEdge": "2",
      "elk.spacing.edgeNode": "2",
      "elk.layered.spacing.edgeNodeBetweenLayers": "2",
      "elk.layered.spacing.edgeEdgeBetweenLayers": "2",
      "elk.padding": `[top=${MARGIN},left=${MARGIN},bottom=${MARGIN},right=${MARGIN}]`,
    },
  };
}

/** -1 for a part that hangs on a supply, 1 for one that stands on ground, 0 for all others. */
function standing({ nodes }: Located, supplies: Set<string>): number {
  const hangs = nodes.some((node) => supplies.has(node));
  return Number(nodes.includes(GROUND)) - Number(hangs);
}

function sideOf([dx, dy]: Point): string {
  if (dx) return dx < 0 ? "WEST" : "EAST";
  return dy < 0 ? "NORTH" : "SOUTH";
}

/** The routes of each node's edges as wires, shared pieces once. */
function wiresOf(found: ElkNode, located: Located[], parts: Part[], catalogue: Catalogue): Wire[] {
  const nodeOf = new Map(
    located.flatMap(({ part, nodes }) => nodes.map((node, k) => [`${part.id}:${k}`, node])),
  );
  const pinAt = new Map(
    parts.flatMap((part) =>
      pinsOf(part, catalogue).map(({ index, at }) => [`${part.id}:${index}`, at]),
    ),
  );
  const ways = new Map<string, Point[][]>();
  for (const edge of found.edges ?? []) {
    const node = nodeOf.get(edge.sources[0] as string) as string;
    for (const section of edge.sections ?? []) {
      const points = [section.startPoint, ...(section.bendPoints ?? []), section.endPoint].map(
        ({ x, y }): Point => [Math.round(x), Math.round(y)],
      );
      // A route ends at the frame around a part, which may lie beyond the pin itself.
      const [from, to] = [edge.sources[0], edge.targets[0]].map((pin) => pinAt.get(pin ?? ""));
      const whole = [...(from ? [from] : []), ...points, ...(to ? [to] : [])];
      ways.set(node, [...(ways.get(node) ?? []), simplified(whole)]);
    }
  }
  const wires: Wire[] = [];
  for (const routes of ways.values())
    for (const [a, b] of pieces(routes)) wires.push({ id: `w${wires.length + 1}`, points: [a, b] });
  return wires;
}

/** Straight pieces between all the corners of one node's routes, each once. */
function pieces(routes: Point[][]): [Point, Point][] {
  const corners = routes.flat();
  const found = new Map<string, [Point, Point]>();
  for (const route of routes)
    for (let k = 1; k < route.length; k++) {
      const [a, b] = [route[k - 1] as Point, route[k] as Point];
      const along = corners
        .filter((p) => onSegment(p, a, b))
        .sort(
          (p, q) => Math.hypot(p[0] - a[0], p[1] - a[1]) - Math.hypot(q[0] - a[0], q[1] - a[1]),
        );
      for (let i = 1; i < along.length; i++) {
        const [p, q] = [along[i - 1] as Point, along[i] as Point];
        if (!same(p, q)) found.set([key(p), key(q)].sort().join(" "), [p, q]);
      }
    }
  return [...found.values()];
}

/** A wire from a pin to where a sign stands, below it (1) or above (-1); the sign's place. */
function led(at: Point, outward: Point, way: 1 | -1, wires: Wire[]): Point {
  if (outward[1] === way) return at;
  const side = outward[0] || 1;
  const corner: Point = [at[0] + STUB * side, at[1]];
  const end: Point = [corner[0], at[1] + way];
  wires.push({ id: `w${wires.length + 1}`, points: simplified([at, corner, end]) });
  return end;
}

function ground(at: Point, outward: Point, grounds: Part[], wires: Wire[], catalogue: Catalogue) {
  grounds.push({
    id: `g${grounds.length + 1}`,
    kind: "ground",
    block: "",
    form: "",
    textbook: false,
    name: catalogue.get("ground")?.prefix ?? "GND",
    values: {},
    at: led(at, outward, 1, wires),
    rotation: 0,
    mirror: false,
  });
}
