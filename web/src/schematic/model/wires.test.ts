// Wires under editing: whatever is moved or turned, what was joined stays joined and nothing else is.
import { describe, expect, it } from "vitest";
import type { Kind, Part, Point, Schematic } from "../../api/types";
import { mended, mirrored, moved, put, turned, wire } from "./edits";
import { allPins, type Catalogue, key, segmentsOf } from "./geometry";
import { route, surroundings } from "./route";
import { tidied } from "./wires";

const twoPins = {
  pins: [
    { name: "1", x: -3, y: 0 },
    { name: "2", x: 3, y: 0 },
  ],
  body: [-1.6, -0.7, 1.6, 0.7],
};
const catalogue = new Map([["resistor", twoPins as Kind]]) as Catalogue;

const part = (id: string, at: Point, rotation: Part["rotation"] = 0): Part => ({
  id,
  kind: "resistor",
  name: id,
  values: {},
  form: "",
  textbook: false,
  block: "",
  at,
  rotation,
  mirror: false,
});

const empty: Schematic = { parts: [], wires: [], junctions: [], labels: [], notes: [], nodes: [] };

/** Four parts in a ring with a tap: pins joined pairwise, one joint in the middle of a wire. */
const ring = (): Schematic => tidied(asDrawnElsewhere(), catalogue);

/** The same with its wires in one piece, whatever joins them in the middle. */
function asDrawnElsewhere(): Schematic {
  const parts = [
    part("A", [6, 0]),
    part("B", [15, 6], 90),
    part("C", [6, 12]),
    part("D", [-3, 6], 90),
  ];
  const ways: Point[][] = [
    [
      [9, 0],
      [15, 0],
      [15, 3],
    ],
    [
      [15, 9],
      [15, 12],
      [9, 12],
    ],
    [
      [3, 12],
      [-3, 12],
      [-3, 9],
    ],
    [
      [-3, 3],
      [-3, 0],
      [3, 0],
    ],
    [
      [15, 0],
      [20, 0],
    ],
  ];
  const wires = ways.map((points, i) => ({ id: `w${i}`, points }));
  const labels = [{ id: "l", name: "tap", at: [20, 0] as Point, style: "name" as const }];
  return { ...empty, parts, wires, labels };
}

/** Which pins and names are one node, by the rule that wire ends join what they touch. */
function joinedPins(schematic: Schematic): string[] {
  const group = new Map<string, string>();
  const find = (k: string): string => {
    const up = group.get(k) ?? k;
    return up === k ? k : find(up);
  };
  for (const { points } of schematic.wires)
    group.set(find(key(points[0] as Point)), find(key(points.at(-1) as Point)));
  const members = new Map<string, string[]>();
  const add = (at: Point, name: string) =>
    members.set(find(key(at)), [...(members.get(find(key(at))) ?? []), name]);
  for (const pin of allPins(schematic, catalogue)) add(pin.at, `${pin.part.id}${pin.index}`);
  for (const label of schematic.labels) add(label.at, label.name);
  return [...members.values()].map((names) => names.sort().join(" ")).sort();
}

const isSquare = ({ wires }: Schematic) =>
  wires.every(({ points }) => segmentsOf(points).every(([a, b]) => a[0] === b[0] || a[1] === b[1]));

describe("editing", () => {
  const before = joinedPins(ring());

  it("splits a wire where another joins it", () => {
    expect(ring().wires).toHaveLength(6);
    expect(before).toEqual(["A0 D0", "A1 B0 tap", "B1 C1", "C0 D1"]);
  });

  it("keeps every connection, and makes none, wherever a part is moved", () => {
    for (const id of ["A", "B", "C", "D"])
      for (const step of [
        [0, -4],
        [3, 0],
        [-2, 5],
        [7, 7],
        [1, -1],
        [0, 25],
      ] as Point[]) {
        for (const drawing of [ring(), asDrawnElsewhere()]) {
          const after = moved(drawing, new Set([id]), step, catalogue);
          expect(joinedPins(after), `${id} by ${step}`).toEqual(before);
          expect(isSquare(after)).toBe(true);
        }
      }
  });

  it("keeps every connection when all is moved, and the drawing's shape", () => {
    const drawing = ring();
    const all = [...drawing.parts, ...drawing.wires, ...drawing.labels].map((item) => item.id);
    const after = moved(drawing, new Set(all), [4, -3], catalogue);
    expect(after.wires.map((w) => w.points)).toEqual(
      drawing.wires.map((w) => w.points.map(([x, y]) => [x + 4, y - 3])),
    );
  });

  it("keeps every connection when a part is turned", () => {
    for (const id of ["A", "B", "C", "D"])
      for (const drawing of [ring(), asDrawnElsewhere()])
        expect(joinedPins(turned(drawing, new Set([id]), catalogue))).toEqual(before);
  });

  it("reverses a part that is mirrored end for end, and leaves the wires alone", () => {
    const after = mirrored(ring(), new Set(["A"]), catalogue);
    expect(joinedPins(after)).toEqual(["A0 B0 tap", "A1 D0", "B1 C1", "C0 D1"]);
    expect(after.wires).toEqual(ring().wires);
    expect(joinedPins(mirrored(ring(), new Set(["B"]), catalogue))).toEqual(before);
  });

  it("wires pins that touched when one is pulled away", () => {
    const touching = { ...empty, parts: [part("A", [0, 0]), part("B", [6, 0])] };
    const after = moved(touching, new Set(["B"]), [5, 4], catalogue);
    expect(joinedPins(after)).toContain("A1 B0");
  });

  it("splices a part dropped on a wire into it", () => {
    const line = wire(
      empty,
      [
        [0, 0],
        [20, 0],
      ],
      catalogue,
    );
    const after = put(line, part("A", [10, 0]), catalogue);
    expect(after.wires.map((w) => w.points)).toEqual([
      [
        [0, 0],
        [7, 0],
      ],
      [
        [13, 0],
        [20, 0],
      ],
    ]);
  });

  it("applies a mend: what is put replaces, what is removed goes", () => {
    const drawing = ring();
    const changed = { ...(drawing.parts[0] as Part), name: "renamed" };
    const mend = { label: "", remove: ["B"], parts: [changed], wires: [], labels: [] };
    const after = mended(drawing, mend, catalogue);
    expect(after.parts.map((p) => p.name)).toEqual(["renamed", "C", "D"]);
  });
});

describe("routing", () => {
  it("goes round parts and over no pin that is not its own", () => {
    const wall = { ...empty, parts: [part("A", [0, 0]), part("B", [10, 0]), part("C", [20, 0])] };
    const around = surroundings(wall, catalogue);
    const way = route([3, 0], [17, 0], around);
    const pins = allPins(wall, catalogue).map((pin) => pin.at);
    const over = pins.filter(([x, y]) =>
      segmentsOf(way).some(([a, b]) => {
        const within = (p: number, q: number, r: number) =>
          Math.min(p, r) <= q && q <= Math.max(p, r);
        return within(a[0], x, b[0]) && within(a[1], y, b[1]);
      }),
    );
    expect(over.map(key)).toEqual(["3,0", "17,0"]);
    expect(way.length).toBeGreaterThan(2);
  });
});
