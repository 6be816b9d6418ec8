// How a result is divided into plots, what is offered of a choice, and how axes write numbers.
import { describe, expect, it } from "vitest";
import type { Evaluation, MarksLook, RunLook } from "../api/types";
import { engineering, scaleFor, typed } from "../ui/engineering";
import { logTicks, ticksOf } from "../ui/ticks";
import { namesOfChosen } from "./chosen";
import { roomy } from "./drawing/axes";
import { columnsOf } from "./drawing/dense";
import { drawnAt } from "./drawing/marks";
import { type Arrangement, type Form, type Looks, PLAIN_LOOKS, panesOf } from "./drawing/panes";
import { enlarged, moved } from "./drawing/stretch";
import { rowsOf } from "./MarkerTable";

const curve = (text: string, unit: string, more = {}) => ({
  text,
  unit,
  member: null,
  y: [1, 10],
  phase: null,
  readings: [],
  ...more,
});
const look = (...curves: object[]) => ({ x: [1, 2], curves }) as unknown as RunLook;
const none = new Set<string>();
const as = (form: Form, more: Partial<Looks> = {}): Looks => ({ ...PLAIN_LOOKS, form, ...more });

describe("a result", () => {
  it("has a plot for each unit, and a curve keeps its hue while others are hidden", () => {
    const seen = look(curve("V_a", "V"), curve("I_R", "A"), curve("V_b", "V"));
    const panes = panesOf(seen, as("plain"), none);
    expect(panes.map((pane) => [pane.unit, pane.traces.map((t) => t.name)])).toEqual([
      ["V", ["V_a", "V_b"]],
      ["A", ["I_R"]],
    ]);
    const without = panesOf(seen, as("plain"), new Set(["V_a"]));
    expect(without.flatMap((pane) => pane.traces.map((t) => [t.name, t.hue]))).toEqual([
      ["I_R", 1],
      ["V_b", 2],
    ]);
  });

  it("of phasors has magnitude and phase, twenty decibels a tenfold, nothing of nothing", () => {
    const seen = look(curve("V_a", "V", { y: [1, 10, 0], phase: [0, 90, null] }));
    const [magnitude, phase] = panesOf(seen, as("decibels"), none);
    expect(magnitude?.traces[0]?.y).toEqual([0, 20, null]);
    expect(phase?.unit).toBe("°");
    expect(panesOf(seen, as("plain"), none)[0]?.unit).toBe("V");
  });

  it("shares a plot between two units, each on its own side, and leaves out what is not wanted", () => {
    const seen = look(curve("V_a", "V"), curve("I_R", "A"), curve("V_b", "V"));
    const [shared, ...others] = panesOf(seen, as("plain", { together: true }), none);
    expect(others).toEqual([]);
    expect([shared?.unit, shared?.side]).toEqual(["V", "A"]);
    expect(shared?.traces.map((t) => [t.name, t.aside ?? false])).toEqual([
      ["V_a", false],
      ["V_b", false],
      ["I_R", true],
    ]);
    const phasors = look(curve("V_a", "V", { phase: [0, 90] }));
    const one = panesOf(phasors, as("decibels", { magnitude: false }), none);
    expect(one.map((pane) => pane.key)).toEqual(["phase"]);
  });

  it("has its pass band marked on the plot of sizes alone", () => {
    const band = { lower: 1, upper: 2 };
    const seen = look(curve("V_a", "V", { phase: [0, 90], band }));
    const panes = panesOf(seen, as("decibels"), none);
    expect(panes.map((pane) => pane.bands?.length ?? 0)).toEqual([1, 0]);
  });

  it("of a family tells its members apart by value", () => {
    const ohms = (key: string) => ({ key, label: `R1 = ${key}`, role: "value" as const });
    const seen = look(
      curve("V_a", "V", { member: ohms("1 kΩ") }),
      curve("V_a", "V", { member: ohms("2 kΩ") }),
    );
    const traces = panesOf(seen, as("plain"), none)[0]?.traces ?? [];
    expect(traces.map((t) => t.label)).toEqual(["1 kΩ", "2 kΩ"]);
    expect(new Set(traces.map((t) => t.name)).size).toBe(2);
  });
});

describe("what is chosen on the sheet", () => {
  const drawn = {
    nets: [
      { name: "a", ground: false, named: true, wires: ["w1"], pins: [["p1", 0]] },
      {
        name: "b",
        ground: false,
        named: false,
        wires: [],
        pins: [
          ["p1", 1],
          ["p2", 0],
        ],
      },
      { name: "0", ground: true, named: false, wires: ["w2"], pins: [["p2", 1]] },
    ],
    parts: [
      { id: "p1", name: "R1" },
      { id: "p2", name: "R10" },
    ],
    quantities: [
      { name: "V_a", kind: "voltage", subject: "a" },
      { name: "I_R1", kind: "current", subject: "R1" },
      { name: "P_R1", kind: "power", subject: "R1" },
      { name: "I_R10", kind: "current", subject: "R10" },
    ],
  } as unknown as Evaluation;

  it("is offered by the names it has in formulas", () => {
    expect(namesOfChosen(drawn, new Set(["w1", "w2"]))).toEqual(["V_a"]);
    expect(namesOfChosen(drawn, new Set(["p1"]))).toEqual(["I_R1", "P_R1", "V_a - V_b"]);
    expect(namesOfChosen(drawn, new Set(["p2"]))).toEqual(["I_R10", "V_b"]);
    expect(namesOfChosen(null, new Set(["p1"]))).toEqual([]);
  });
});

describe("numbers on an axis", () => {
  it("have the prefix of their size as rounded", () => {
    expect(engineering(4700, "Ω")).toBe("4.7\u00a0kΩ");
    expect(engineering(-0.0000022, "F")).toBe("−2.2\u00a0µF");
    expect(engineering(999.96, "Hz")).toBe("1\u00a0kHz");
    expect(engineering(1e-3, "V")).toBe("1\u00a0mV");
    expect(engineering(12000, "dB")).toBe("12000\u00a0dB"); // no kilodecibels
    expect(engineering(0, "V")).toBe("0\u00a0V");
    expect(scaleFor(1e30).prefix).toBe("T");
  });
});

describe("a stretch of the axis", () => {
  const axis = { isLog: false, ends: [0, 10] as [number, number] };
  const decades = { isLog: true, ends: [1, 1e6] as [number, number] };

  it("keeps the place it is enlarged about, by decades where the axis is", () => {
    expect(enlarged([0, 10], 0.5, 2, axis)).toEqual([1, 6]);
    expect(enlarged([1, 1e6], 0.5, 1e3, decades)).toEqual([
      expect.closeTo(10 ** 1.5),
      expect.closeTo(10 ** 4.5),
    ]);
    expect(enlarged([1, 6], 4, 2, axis)).toEqual([0, 10]);
  });

  it("moves along as wide as it is, up to the ends", () => {
    expect(moved([2, 4], 0.5, axis)).toEqual([3, 5]);
    expect(moved([7, 9], 2, axis)).toEqual([8, 10]);
    expect(moved([1, 3], -3, axis)).toEqual([0, 2]);
  });
});

describe("a limit of an axis", () => {
  it("is read with its prefix, and nothing is made of what is no number", () => {
    expect(["5 mV", "-1", "2,5k", "10µ", "−3 dB", "x", "1 2", ""].map(typed)).toEqual([
      0.005,
      -1,
      2500,
      expect.closeTo(1e-5, 12),
      -3,
      null,
      null,
      null,
    ]);
  });
});

describe("curves", () => {
  const of = (...shares: [string, string, number][]) =>
    look(...shares.map(([text, unit, size]) => curve(text, unit, { y: [0, size] })));
  const split = (seen: RunLook, arrangement = { plots: [], aside: [] } as Arrangement) =>
    panesOf(seen, as("plain"), none, [], arrangement).map((pane) => [
      pane.unit,
      pane.side ?? "",
      ...pane.traces.map((t) => (t.aside ? `${t.name}>` : t.name)),
    ]);

  it("that would be flat beside another have a plot of their own, unless they were put together", () => {
    const seen = of(["V_in", "V", 0.01], ["V_out", "V", 1], ["V_b", "V", 0.5]);
    expect(split(seen)).toEqual([
      ["V", "", "V_in"],
      ["V", "", "V_out", "V_b"],
    ]);
    const together = { plots: [["V_in", "V_out", "V_b"]], aside: [] };
    expect(split(seen, together)).toEqual([["V", "", "V_in", "V_out", "V_b"]]);
    expect(split(of(["V_in", "V", 0.011], ["V_out", "V", 1])).length).toBe(1);
  });

  it("stand where they were put: alone, with another unit, or on a scale at the right", () => {
    const seen = of(["V_a", "V", 1], ["V_b", "V", 2], ["I_R", "A", 1e-3]);
    expect(split(seen, { plots: [["V_b"]], aside: [] })).toEqual([
      ["V", "", "V_a"],
      ["V", "", "V_b"],
      ["A", "", "I_R"],
    ]);
    expect(split(seen, { plots: [["V_a", "I_R"]], aside: [] })).toEqual([
      ["V", "A", "V_a", "I_R>"],
      ["V", "", "V_b"],
    ]);
    expect(split(seen, { plots: [], aside: ["V_b"] })).toEqual([
      ["V", "V", "V_a", "V_b>"],
      ["A", "", "I_R"],
    ]);
  });

  it("of phasors take their phase along", () => {
    const phasor = { phase: [0, 90] };
    const seen = look(curve("V_a", "V", phasor), curve("V_b", "V", phasor));
    const panes = panesOf(seen, as("decibels"), none, [], { plots: [["V_b"]], aside: [] });
    expect(panes.map((pane) => [pane.part, pane.traces.map((t) => t.name)])).toEqual([
      ["decibels", ["V_a"]],
      ["decibels", ["V_b"]],
      ["phase", ["V_a"]],
      ["phase", ["V_b"]],
    ]);
  });
});

describe("a marker", () => {
  it("stands on the line between two points, as its axis is drawn", () => {
    expect(drawnAt([0, 1, 3], [0, 10, 30], 2)).toBe(20);
    expect(drawnAt([1, 100], [0, 10], 10, true)).toBeCloseTo(5);
    expect(drawnAt([0, 1], [null, 7], 0.5)).toBe(7);
  });

  it("tells the figures of the server, and till they come those drawn", () => {
    const seen = { ...look(curve("V_a", "V", { phase: [0, -720] })), axis: "f", axis_unit: "Hz" };
    const marks = [{ curve: "V_a", member: "", at: 1 }];
    const panes = panesOf(seen as RunLook, as("decibels"), none);
    const rows = (told: MarksLook | null) =>
      rowsOf(seen as RunLook, panes, false, { marks, told }).map((row) => row.values[0]);
    expect(rows(null)).toEqual([1, 0, 0]);
    const values = [{ text: "V_a", member: "", values: [10], phases: [355] }];
    expect(rows({ marks, values, between: [] } as unknown as MarksLook)).toEqual([1, 20, -5]);
  });
});

describe("the plane", () => {
  it("has round steps that cover it", () => {
    expect(ticksOf(-12, 13)).toEqual([-10, -5, 0, 5, 10]);
    expect(ticksOf(0, 0)).toEqual([]);
    expect(logTicks(60e3, 300e3)).toEqual([6e4, 7e4, 8e4, 9e4, 1e5, 2e5, 3e5]);
    expect(logTicks(1, 1000).filter((tick) => tick === 10 || tick === 100)).toHaveLength(2);
    expect(logTicks(71e3, 79e3)).toEqual([72e3, 74e3, 76e3, 78e3]);
  });
});

describe("a curve denser than pixels", () => {
  const x = [0, 0.2, 0.4, 1, 1.3, 2, 2.4, 3, 3.1, 4];
  const columns = (y: (number | null)[]) =>
    columnsOf(x, y, 0, x.length - 1, Math.floor).map(({ at, least, most }) => [at, least, most]);

  it("keeps every peak, and joins each column to the one before", () => {
    expect(columns([0, 9, 1, 2, 3, -5, 4, 4, 5, 5])).toEqual([
      [0, 0, 9],
      [1, 1, 3],
      [2, -5, 4],
      [3, 4, 5],
      [4, 5, 5],
    ]);
  });

  it("goes straight through columns that have no point of their own", () => {
    const sparse = columnsOf([0, 0.5, 4, 4.5], [0, 8, 0, 4], 0, 3, Math.floor);
    expect(sparse.map(({ at, least, most }) => [at, least, most])).toEqual([
      [0, 0, 8],
      [1, 6, 8],
      [2, 4, 6],
      [3, 2, 4],
      [4, 0, 4],
    ]);
  });

  it("is open where there is a gap", () => {
    expect(columns([0, 1, 2, 3, null, null, 7, 8, 9, 9])).toEqual([
      [0, 0, 2],
      [1, 2, 3],
      [2, 7, 7],
      [3, 7, 9],
      [4, 9, 9],
    ]);
  });
});

describe("the range of a plot", () => {
  it("is of a flat line where values differ by rounding alone", () => {
    const [low, high] = roomy(null as never, 10, 10 + 4e-15);
    expect([low, high]).toEqual([expect.closeTo(9), expect.closeTo(11)]);
    const [from, to] = roomy(null as never, 10, 10.001);
    expect(to - from).toBeCloseTo(0.00112, 5);
  });
});
