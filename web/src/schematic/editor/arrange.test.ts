// Edits of several things at once, copy and paste, and the layout of a netlist: the circuit stays.
import { describe, expect, it } from "vitest";
import type { Kind, Part, PlacedOn, Point, Schematic, Wire } from "../../api/types";
import { aligned, healed, renumbered, replaced, spaced } from "../model/arrange";
import { mirrored, moved, named, put, turned, wire, without } from "../model/edits";
import {
  allPins,
  bodyOf,
  type Catalogue,
  key,
  onWire,
  overlap,
  segmentsOf,
} from "../model/geometry";
import { laidOut } from "../model/layout";
import { route, surroundings } from "../model/route";
import { freshId, spliced, tidied } from "../model/wires";
import { clipped, pasted } from "./clipboard";

function kind(name: string, pins: [string, number, number][], more: Partial<Kind> = {}): Kind {
  const body = pins.length === 1 ? [-1, 0.9, 1, 2] : [-1.6, -1.5, 1.6, 1.5];
  return {
    key: name,
    kind: name,
    label: name,
    prefix: name[0]?.toUpperCase(),
    rotation: 0,
    pins: pins.map(([pin, x, y]) => ({ name: pin, x, y })),
    body,
    parameters: [],
    values: { value: "1" },
    ...more,
  } as unknown as Kind;
}

const twoPins: [string, number, number][] = [
  ["1", -3, 0],
  ["2", 3, 0],
];
const catalogue: Catalogue = new Map(
  [
    kind("resistor", twoPins),
    kind("capacitor", twoPins),
    kind("voltage_source", twoPins, { rotation: 90 }),
    kind("npn", [
      ["C", 1, -3],
      ["B", -3, 0],
      ["E", 1, 3],
    ]),
    kind("ground", [["ground", 0, 0]], { prefix: "GND" }),
  ].map((each) => [each.key, each]),
);

const part = (id: string, name: string, at: Point, more: Partial<Part> = {}): Part => ({
  id,
  kind: "resistor",
  name,
  values: {},
  form: "",
  textbook: false,
  block: "",
  at,
  rotation: 0,
  mirror: false,
  ...more,
});

const sheet = (parts: Part[], ways: Point[][] = []): Schematic =>
  tidied(
    {
      parts,
      wires: ways.map((points, i): Wire => ({ id: `w${i}`, points })),
      junctions: [],
      labels: [],
      notes: [],
      nodes: [],
    },
    catalogue,
  );

/** Pins by node: which are joined by touching, by wires, or by a name. */
function nodes(schematic: Schematic): string[] {
  const parent = new Map<string, string>();
  const find = (item: string): string => {
    const up = parent.get(item) ?? item;
    return up === item ? item : find(up);
  };
  const join = (a: string, b: string) => parent.set(find(a), find(b));
  const points = [
    ...allPins(schematic, catalogue).map((pin) => pin.at),
    ...schematic.wires.flatMap((w) => [w.points[0] as Point, w.points.at(-1) as Point]),
    ...schematic.labels.map((label) => label.at),
  ];
  for (const wire of schematic.wires)
    for (const point of points) if (onWire(point, wire.points)) join(key(point), `wire ${wire.id}`);
  for (const label of schematic.labels) join(key(label.at), `name ${label.name}`);
  const groups = new Map<string, string[]>();
  for (const pin of allPins(schematic, catalogue)) {
    const grounded = pin.part.kind === "ground";
    if (grounded) join(key(pin.at), "ground");
    const name = grounded ? "ground" : `${pin.part.name}.${pin.index}`;
    const root = find(key(pin.at));
    groups.set(root, [...(groups.get(root) ?? []), name]);
  }
  const merged = new Map<string, string[]>();
  for (const [root, names] of groups)
    merged.set(find(root), [...(merged.get(find(root)) ?? []), ...names]);
  return [...merged.values()].map((names) => [...new Set(names)].sort().join(" ")).sort();
}

const row = () =>
  sheet(
    [part("a", "R1", [0, 0]), part("b", "R2", [10, 2]), part("c", "R3", [24, -1])],
    [
      [
        [3, 0],
        [5, 0],
        [5, 2],
        [7, 2],
      ],
      [
        [13, 2],
        [16, 2],
        [16, -1],
        [21, -1],
      ],
    ],
  );
const all = new Set(["a", "b", "c"]);

describe("several things at once", () => {
  it("are aligned and spaced, and stay joined as they were", () => {
    const before = nodes(row());
    const inRow = aligned(row(), all, "row", catalogue);
    expect(new Set(inRow.parts.map((p) => p.at[1])).size).toBe(1);
    expect(nodes(inRow)).toEqual(before);
    const even = spaced(inRow, all, catalogue);
    const [first, second, third] = even.parts.map((p) => p.at[0]) as [number, number, number];
    expect(second - first).toBe(third - second);
    expect(nodes(even)).toEqual(before);
  });

  it("a part healed out of a wire, and spliced in again, leaves the drawing as it was", () => {
    const before = sheet(
      [part("a", "R1", [0, 0]), part("b", "R2", [9, 0]), part("c", "R3", [18, 0])],
      [
        [
          [3, 0],
          [6, 0],
        ],
        [
          [12, 0],
          [15, 0],
        ],
      ],
    );
    const out = healed(before, new Set(["b"]), catalogue);
    expect(nodes(out)).toEqual(["R1.0", "R1.1 R3.0", "R3.1"]);
    const back = tidied({ ...out, parts: [...out.parts, part("b", "R2", [9, 0])] }, catalogue);
    expect(nodes(spliced(back, "b", catalogue))).toEqual(nodes(before));
  });

  it("another kind takes a part's place with its name and its wires", () => {
    const changed = replaced(row(), "b", catalogue.get("capacitor") as Kind, catalogue);
    expect(changed.parts.find((p) => p.id === "b")).toMatchObject({
      kind: "capacitor",
      name: "R2",
    });
    expect(nodes(changed)).toEqual(nodes(row()));
  });

  it("parts are numbered from left to right, and named only where that differs", () => {
    const drawing = sheet([
      part("a", "R9", [20, 0]),
      part("b", "R1", [0, 0]),
      part("c", "R", [9, 9]),
    ]);
    expect([...renumbered(drawing, catalogue)]).toEqual([["a", "R2"]]);
  });
});

describe("copy and paste", () => {
  it("brings the same circuit under names and identifiers of its own", () => {
    const from = row();
    const clip = clipped(from, all, [], catalogue);
    if (!clip) throw new Error("nothing was copied");
    const { whole, ids } = pasted(from, clip, [12, 30], catalogue);
    const every = [...whole.parts, ...whole.wires].map((item) => item.id);
    expect(new Set(every).size).toBe(every.length);
    expect(new Set(whole.parts.map((p) => p.name)).size).toBe(6);
    expect(ids).toHaveLength(3 + clip.wires.length);
    const own = (name: string) => nodes(whole).filter((node) => node.includes(name));
    expect(own("R4")).toEqual(["R4.0", "R4.1 R5.0"]);
  });
});

describe("a netlist laid out", () => {
  const stage: [string, string, string[]][] = [
    ["voltage_source", "V1", ["vcc", "0"]],
    ["voltage_source", "V2", ["in", "0"]],
    ["capacitor", "C1", ["in", "b"]],
    ["resistor", "R1", ["vcc", "b"]],
    ["resistor", "R2", ["b", "0"]],
    ["resistor", "R3", ["vcc", "c"]],
    ["resistor", "R4", ["e", "0"]],
    ["npn", "Q1", ["c", "b", "e"]],
    ["capacitor", "C2", ["c", "out"]],
    ["resistor", "R5", ["out", "0"]],
  ];
  const networkOf = (list: typeof stage) =>
    list.map(
      ([of, name, own], i): PlacedOn => ({
        part: part(`p${i}`, name, [0, 0], { kind: of }),
        nodes: own,
      }),
    );

  /** The drawing; it joins what the network joins, and is sound. */
  async function drawnAs(network: PlacedOn[]): Promise<Schematic> {
    const drawn = await laidOut(network, catalogue);
    const expected = new Map<string, string[]>();
    for (const { part: own, nodes: at } of network)
      at.forEach((node, pin) => {
        const name = node === "0" ? "ground" : node;
        const there = expected.get(name) ?? (name === "ground" ? ["ground"] : []);
        expected.set(name, [...there, `${own.name}.${pin}`]);
      });
    expect(nodes(drawn)).toEqual([...expected.values()].map((n) => n.sort().join(" ")).sort());
    isSound(drawn);
    return drawn;
  }

  it("means the same circuit, square, with nothing on top of anything", async () => {
    const drawn = await drawnAs(networkOf(stage));
    const bodies = drawn.parts.map((p) => bodyOf(p, catalogue));
    bodies.forEach((body, i) => {
      for (const other of bodies.slice(i + 1)) expect(overlap(body, other)).toBe(false);
    });
    const x = (name: string) => drawn.parts.find((p) => p.name === name)?.at[0] as number;
    expect(x("V2")).toBeLessThan(x("Q1")); // sources left, and the signal runs to the right
    expect(x("C1")).toBeLessThan(x("C2"));
    const y = (name: string) => drawn.parts.find((p) => p.name === name)?.at[1] as number;
    expect(y("R1")).toBeLessThan(y("Q1")); // what hangs on the supply above, ground below
    expect(y("Q1")).toBeLessThan(y("R2"));
  });

  it.each(Array.from({ length: 12 }, (_, i) => i))(
    "means the same circuit (random %i)",
    async (k) => {
      const roll = dice(k);
      const names = ["0", "vcc", "a", "b", "c", "d", "e"];
      const list: typeof stage = [
        ["voltage_source", "V1", ["vcc", "0"]],
        ["voltage_source", "V2", ["a", "0"]],
      ];
      while (list.length < 8 + (k % 6)) {
        const of = ["resistor", "capacitor", "npn"][roll(3)] as string;
        const pins = of === "npn" ? 3 : 2;
        const own = Array.from({ length: pins }, () => names[roll(names.length)] as string);
        if (new Set(own).size === pins) list.push([of, `P${list.length}`, own]);
      }
      await drawnAs(networkOf(list));
    },
  );
});

/** Numbers that look random and are the same each time (Park and Miller, 1988). */
function dice(seed: number): (below: number) => number {
  let state = seed * 7919 + 1;
  return (below) => {
    state = (state * 48271) % 2147483647;
    return state % below;
  };
}

/** What makes a drawing one that can be kept: whole coordinates, square wires, everything told apart. */
function isSound(drawn: Schematic): void {
  const ids = [...drawn.parts, ...drawn.wires, ...drawn.junctions, ...drawn.labels].map(
    (i) => i.id,
  );
  expect(new Set(ids).size).toBe(ids.length);
  const names = drawn.parts.filter((p) => p.kind !== "ground").map((p) => p.name);
  expect(new Set(names).size).toBe(names.length);
  for (const each of [...drawn.parts, ...drawn.labels, ...drawn.junctions])
    expect(each.at.every(Number.isInteger)).toBe(true);
  for (const { points } of drawn.wires) {
    expect(points.length).toBeGreaterThan(1);
    for (const [a, b] of segmentsOf(points)) {
      expect([...a, ...b].every(Number.isInteger)).toBe(true);
      expect(Number(a[0] === b[0]) + Number(a[1] === b[1])).toBe(1); // square, and not of no length
    }
  }
}

describe("edits at random", () => {
  it.each(Array.from({ length: 12 }, (_, i) => i + 1))("leave a sound drawing (%i)", (seed) => {
    const any = dice(seed);
    const kinds = [...catalogue.values()];
    const one = <T>(of: readonly T[]): T => of[any(of.length)] as T;
    let drawn = sheet([]);
    const some = () => {
      const all = [...drawn.parts, ...drawn.wires, ...drawn.labels];
      return new Set(all.filter(() => any(4) === 0).map((item) => item.id));
    };
    const place = (): Point => [any(40) - 20, any(30) - 15];
    const pin = (): Point =>
      any(3) && drawn.parts.length ? one(allPins(drawn, catalogue)).at : place();
    const fresh = (of: Kind) => {
      let k = 1;
      while (drawn.parts.some((p) => p.name === `${of.prefix}${k}`)) k += 1;
      return `${of.prefix}${k}`;
    };
    const edits: (() => Schematic)[] = [
      () => {
        const of = one(kinds);
        const more = { kind: of.key, rotation: one([0, 90, 180, 270] as const) };
        return put(drawn, part(freshId("p", drawn.parts), fresh(of), place(), more), catalogue);
      },
      () => {
        const [from, to] = [pin(), pin()];
        if (key(from) === key(to)) return drawn;
        return wire(drawn, route(from, to, surroundings(drawn, catalogue)), catalogue);
      },
      () => moved(drawn, some(), [any(9) - 4, any(9) - 4], catalogue),
      () => turned(drawn, some(), catalogue),
      () => mirrored(drawn, some(), catalogue),
      () => without(drawn, some(), catalogue),
      () => healed(drawn, some(), catalogue),
      () => aligned(drawn, some(), one(["row", "column"] as const), catalogue),
      () => spaced(drawn, some(), catalogue),
      () => {
        const [end] = drawn.wires.length ? one(drawn.wires).points : [];
        return end ? named(drawn, one(["a", "b"]), end as Point) : drawn;
      },
      () => {
        const old = drawn.parts.length ? one(drawn.parts) : undefined;
        if (!old || old.kind === "ground") return drawn;
        const pins = catalogue.get(old.kind)?.pins.length;
        return replaced(drawn, old.id, one(kinds.filter((k) => k.pins.length === pins)), catalogue);
      },
      () => {
        const clip = clipped(drawn, some(), [], catalogue);
        return clip ? pasted(drawn, clip, place(), catalogue).whole : drawn;
      },
      () => (drawn.parts.length ? spliced(drawn, one(drawn.parts).id, catalogue) : drawn),
    ];
    for (let k = 0; k < 60; k += 1) {
      // Placing and wiring come most often, so that there is something to edit.
      drawn = (any(3) ? one(edits) : one(edits.slice(0, 2)))();
      isSound(drawn);
    }
  });
});
