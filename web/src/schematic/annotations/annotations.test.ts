// Whatever is drawn, nothing written on the drawing covers a part or another text.
import { describe, expect, it } from "vitest";
import type { Evaluation, Kind, Part, Point, QuantityLook, Schematic } from "../../api/types";
import { bodyOf, type Catalogue, overlap, pinsOf } from "../model/geometry";
import { annotate } from "./annotate";
import type { Note } from "./notes";

const catalogue = new Map([
  [
    "resistor",
    {
      pins: [
        { name: "1", x: -3, y: 0 },
        { name: "2", x: 3, y: 0 },
      ],
      body: [-1.6, -0.7, 1.6, 0.7],
      parameters: [{ key: "resistance" }],
      currents: [{ name: "", pin: 0 }],
      main: "resistance",
    } as Kind,
  ],
]) as Catalogue;

const layers = { title: false, voltage: true, current: true, power: true };
const measure = (text: string) => 0.7 * text.length;

/** A repeatable stream of numbers in [0, 1): the minimal standard generator (Park and Miller, 1988). */
function* numbers(seed: number): Generator<number> {
  for (let state = seed; ; ) {
    state = (state * 48271) % 2147483647;
    yield state / 2147483647;
  }
}

/** Parts on a loose lattice, turned at random, each with a current and a power to be written. */
function crowd(seed: number): { schematic: Schematic; look: Evaluation } {
  const random = numbers(seed);
  const next = () => random.next().value as number;
  const parts: Part[] = [];
  for (let column = 0; column < 4; column++)
    for (let row = 0; row < 4; row++)
      parts.push({
        id: `p${parts.length}`,
        kind: "resistor",
        name: `R${parts.length + 1}`,
        values: {},
        form: "",
        textbook: false,
        block: "",
        at: [12 * column + Math.floor(3 * next()), 9 * row + Math.floor(3 * next())],
        rotation: next() < 0.5 ? 0 : 90,
        mirror: next() < 0.5,
      });
  const ends = parts.map((part): Point => [part.at[0] + 4, part.at[1] + 4]);
  const wires = ends.map((end, i) => ({
    id: `w${i}`,
    points: [end, [end[0] + 5, end[1]] as Point],
  }));
  const labels = ends.map((at, i) => ({
    id: `l${i}`,
    name: `node${i}`,
    at,
    style: "name" as const,
  }));
  const figure = (kind: string, name: string, text: string): QuantityLook => ({
    name,
    latex: name,
    kind,
    subject: name.slice(2),
    value: 1,
    text,
    exact: text,
    magnitude: text,
    flow: next() < 0.5 ? 1 : -1,
    uncertainty: null,
    meaning: "",
  });
  const quantities = [
    ...parts.map((part) => figure("current", `I_${part.name}`, "123.4 µA")),
    ...parts.map((part) => figure("power", `P_${part.name}`, "12.34 mW")),
    ...labels.map((label) => figure("voltage", `V_${label.name}`, "1.234 V")),
  ];
  const look = {
    parts: parts.map(({ id, name }) => ({
      id,
      name,
      caption: "4.7 kΩ",
      description: "",
      values: [],
    })),
    nets: labels.map(({ name }, i) => ({
      name,
      ground: false,
      named: true,
      pins: [],
      wires: [`w${i}`],
    })),
    parameters: [],
    blocks: [],
    joints: [],
    findings: [],
    quantities,
    unsolved: null,
    lines: [],
    compared: false,
    runs: [],
    spoken: [],
    ledger: [],
  } as Evaluation;
  return { schematic: { parts, wires, junctions: [], labels, notes: [], nodes: [] }, look };
}

/** What is told as before is the very same object, as in the page. */
const known = new Map<string, QuantityLook>();
const sameAgain = (figure: QuantityLook): QuantityLook => {
  const before = known.get(figure.name);
  if (!before) known.set(figure.name, figure);
  return before ?? figure;
};

/** `look` with a node without a name at the first pin of each part, numbered as the parts come. */
function numbered(look: Evaluation, parts: Part[]): Evaluation {
  const figure = look.quantities[0] as QuantityLook;
  const nodes = parts.map((part, k) => ({ part, name: `n${k + 1}` }));
  return {
    ...look,
    nets: [
      ...look.nets,
      ...nodes.map(({ part, name }) => ({
        ...{ name, ground: false, named: false, wires: [] },
        pins: [[part.id, 0]] as [string, number][],
      })),
    ],
    quantities: [
      ...look.quantities,
      ...nodes.map(({ name }) =>
        sameAgain({ ...figure, name: `V_${name}`, kind: "voltage", text: "0 V" }),
      ),
    ],
  };
}

/** Nothing written lies over a part or another text. */
function coversNothing(notes: Note[], schematic: Schematic): void {
  const bodies = schematic.parts.map((part) => bodyOf(part, catalogue));
  notes.forEach((note, i) => {
    expect(bodies.filter((body) => overlap(body, note.box))).toEqual([]);
    for (const other of notes.slice(i + 1))
      expect(overlap(note.box, other.box), `${note.id} over ${other.id}`).toBe(false);
  });
}

describe("what is written on the drawing", () => {
  const crowds = process.env.HYPOTHESIS_PROFILE === "deep" ? 100 : 12;
  const seeds = Array.from({ length: crowds }, (_, i) => i + 1);

  it.each(seeds)("covers nothing (crowd %i)", (seed) => {
    const { schematic, look } = crowd(seed);
    coversNothing(annotate(schematic, look, catalogue, layers, measure).notes, schematic);
  });

  it.each(seeds)("leaves out next to nothing, and no name (crowd %i)", (seed) => {
    const { schematic, look } = crowd(seed);
    const { notes, arrows } = annotate(schematic, look, catalogue, layers, measure);
    const written = new Set(notes.map((note) => note.id.split(" ")[0]));
    expect(written).toEqual(new Set(["part", "label", "current", "power"]));
    expect(notes.filter((note) => note.id.startsWith("part"))).toHaveLength(16);
    expect(notes.filter((note) => note.id.startsWith("label"))).toHaveLength(16);
    expect(notes.length).toBeGreaterThanOrEqual(0.88 * 64); // powers that would cross a wire go
    expect(arrows).toHaveLength(16);
  });

  it.each(seeds)("stays in place as figures change (crowd %i)", (seed) => {
    const { schematic, look } = crowd(seed);
    const first = annotate(schematic, look, catalogue, layers, measure);
    const places = new Map(first.notes.map((note) => [note.id, note.place]));
    const now = (from: Evaluation, texts: string[]): Evaluation => ({
      ...from,
      quantities: from.quantities.map((figure, k) => {
        const text = texts[k % texts.length] as string;
        return { ...figure, text, magnitude: text };
      }),
    });
    // No longer than before: all stay.
    const shorter = now(look, ["1.2 V", "3 A"]);
    const second = annotate(schematic, shorter, catalogue, layers, measure, first);
    for (const note of second.notes)
      if (places.has(note.id)) expect(note.place).toEqual(places.get(note.id));
    expect(second.notes.length).toBeGreaterThanOrEqual(first.notes.length);
    // Some much longer: these may have to go elsewhere, and none to where another is.
    const longer = now(look, ["−1.234 mV over all", "3 A", "12.34 µW"]);
    const { notes } = annotate(schematic, longer, catalogue, layers, measure, second);
    coversNothing(notes, schematic);
    expect(notes.filter((note) => note.id.startsWith("label"))).toHaveLength(16);
  });

  it.each(seeds)("follows the drawing, and stays in place away from an edit (crowd %i)", (seed) => {
    const { schematic, look } = crowd(seed);
    const random = numbers(seed + 100);
    const next = (most: number) => Math.floor((random.next().value as number) * most);
    let now = schematic;
    let laid = annotate(now, numbered(look, now.parts), catalogue, layers, measure);
    for (let round = 0; round < 12; round++) {
      const gone = now.parts[next(now.parts.length)] as Part;
      const others = now.parts.filter((part) => part !== gone);
      const moved: Part = { ...gone, at: [gone.at[0] + next(3) - 1, gone.at[1] + next(3) - 1] };
      const back = schematic.parts.find((part) => !now.parts.some(({ id }) => id === part.id));
      const parts = [others, [...others, moved], back ? [...now.parts, back] : others][next(3)];
      now = { ...now, parts: parts as Part[] };
      const before = new Map(laid.notes.map((note) => [note.id, note]));
      const told = numbered(look, now.parts);
      laid = annotate(now, told, catalogue, layers, measure, laid);
      coversNothing(laid.notes, now);
      // Numbers of nodes went over to others; each is written where its own node is.
      now.parts.forEach((part, k) => {
        const note = laid.notes.find(({ quantity }) => quantity === `V_n${k + 1}`);
        if (note) expect(note.place.beside).toEqual(pinsOf(part, catalogue)[0]?.at);
      });
      const names = laid.notes.filter((note) => /^(part|label) /.test(note.id));
      expect(names).toHaveLength(now.parts.length + 16);
      const places = [gone, moved, ...(back ? [back] : [])].map((part) => part.at);
      const far = laid.notes.filter(({ box, leader }) =>
        places.every(([x, y]) =>
          [...(leader ?? []), [box.left, box.top], [box.right, box.bottom]].every(
            ([left = 0, top = 0]) => Math.hypot(left - x, top - y) > 20,
          ),
        ),
      );
      // All are laid out anew where a name would else find no place.
      const anew = annotate(now, told, catalogue, layers, measure);
      const fresh = new Map(anew.notes.map((note) => [note.id, note.place.at]));
      for (const { id, place } of far)
        if (before.has(id))
          expect([before.get(id)?.place.at, fresh.get(id)], id).toContainEqual(place.at);
    }
  });

  describe.each([
    ["where all has room", (text: string) => 0.1 * text.length],
    ["in a crowd", measure],
  ])("says after any edits what it would say from nothing, %s", (where, wide) => {
    it.each(seeds)("(crowd %i)", (seed) => {
      const { schematic, look } = crowd(seed);
      const random = numbers(seed + 200);
      const next = (most: number) => Math.floor((random.next().value as number) * most);
      const told = (notes: Note[]) =>
        notes.map(({ id, quantity, lines }) => `${id} | ${quantity} | ${JSON.stringify(lines)}`);
      let now = schematic;
      let known = numbered(look, now.parts);
      let laid = annotate(now, known, catalogue, layers, wide);
      for (let round = 0; round < 15; round++) {
        const gone = now.parts[next(now.parts.length)] as Part;
        const others = now.parts.filter((part) => part !== gone);
        const moved: Part = { ...gone, at: [gone.at[0] + next(9) - 4, gone.at[1] + next(9) - 4] };
        const back = schematic.parts.find((part) => !now.parts.some(({ id }) => id === part.id));
        const parts = [others, [...others, moved], back ? [...now.parts, back] : others][next(3)];
        now = { ...now, parts: parts as Part[] };
        // The drawing is there at once; what the look tells of it comes later, and its numbers shift.
        laid = annotate(now, known, catalogue, layers, wide, laid);
        known = numbered(look, now.parts);
        laid = annotate(now, known, catalogue, layers, wide, laid);
        const written = told(laid.notes);
        expect(new Set(laid.notes.map(({ id }) => id)).size).toBe(written.length);
        const anew = told(annotate(now, known, catalogue, layers, wide).notes);
        const all = told(annotate(now, known, catalogue, layers, () => 0.01).notes);
        expect(all).toEqual(expect.arrayContaining(written));
        if (where !== "in a crowd") expect(written.sort()).toEqual(anew.sort());
        else {
          // Every name is there; of figures, for which there is not always room, about as many.
          const names = anew.filter((text) => /^(part|label|node) /.test(text));
          expect(written).toEqual(expect.arrayContaining(names));
          expect(written.length).toBeGreaterThanOrEqual(0.9 * anew.length);
        }
      }
    });
  });

  it("draws an arrow the way the current flows", () => {
    const { schematic, look } = crowd(1);
    const { arrows } = annotate(schematic, look, catalogue, layers, measure);
    for (const arrow of arrows) {
      const part = schematic.parts.find((p) => `I_${p.name}` === arrow.quantity) as Part;
      const flow = look.quantities.find((q) => q.name === arrow.quantity)?.flow ?? 0;
      // From the first pin to the second as seen on the sheet, where the part is turned and mirrored.
      const sign = part.mirror ? -1 : 1;
      const along = part.rotation === 0 ? arrow.towards[0] : arrow.towards[1];
      expect(along).toBe(sign * flow);
    }
  });
});
