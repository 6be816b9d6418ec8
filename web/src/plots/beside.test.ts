// What the bench says, put into the plots of a run: in each plot's own unit, beside the curve it is of.
import { describe, expect, it } from "vitest";
import type { BenchCurveLook, BesideLook, CurveLook, RunLook } from "../api/types";
import { reachOf } from "./drawing/benchDots";
import { dotsIn, gapPanes } from "./drawing/beside";
import { PLAIN_LOOKS, panesOf } from "./drawing/panes";

const curve = (text: string, y: number[], phase: number[] | null, unit = ""): CurveLook => ({
  text,
  member: null,
  unit,
  by_hand: false,
  y,
  phase,
  readings: [],
  band: null,
});

const look = (curves: CurveLook[], x = [1e3, 1e4]): RunLook =>
  ({ axis: "f", axis_unit: "Hz", is_log: true, x, curves }) as unknown as RunLook;

const bench = (text: string, more: Partial<BenchCurveLook>): BesideLook => ({
  curves: [
    {
      record: "m1",
      name: "A record",
      text,
      unit: "",
      x: [1e3, 1e4],
      y: [1, 0.5],
      errors: [0.01, 0.01],
      phase: null,
      phase_errors: null,
      readings: [],
      ...more,
    },
  ],
  gaps: [],
  offered: [],
  problems: [],
});

const dots = (beside: BesideLook, of: RunLook, form: "decibels" | "plain") => {
  const panes = panesOf(of, { ...PLAIN_LOOKS, form }, new Set());
  const found = dotsIn(panes, beside, of);
  return new Map(panes.map(({ part, key }) => [part, found.get(key) ?? []]));
};

describe("records beside curves", () => {
  const response = look([curve("V_out/V_in", [1, 0.5], [170, 190])]);

  it("are drawn in decibels where the curve is, their bars too", () => {
    const [own] = dots(bench("V_out/V_in", {}), response, "decibels").get("decibels") ?? [];
    expect(own?.y[1]).toBeCloseTo(-6.0206, 3);
    // A small share of a size is 8.686 times that in decibels.
    expect(own?.errors[0]).toBeCloseTo(0.0869, 3);
    expect(own?.errors[1]).toBeCloseTo(0.1737, 3);
  });

  it("go along with the curve's phase, of which whole turns are no difference", () => {
    const measured = bench("V_out/V_in", { phase: [-191, -169], phase_errors: [1, 1] });
    const [own] = dots(measured, response, "plain").get("phase") ?? [];
    expect(own?.y).toEqual([169, 191]);
  });

  it("go to the plot of their unit where no curve is of the same", () => {
    const volts = look([curve("V_in", [1, 1], null, "V")]);
    const [own] = dots(bench("V_out", { unit: "V" }), volts, "plain").get("value") ?? [];
    expect(own?.y).toEqual([1, 0.5]);
    expect(dots(bench("I_R1", { unit: "A" }), volts, "plain").get("value")).toEqual([]);
  });

  it("are told apart by shape where two are in one plot", () => {
    const volts = look([curve("V_a", [1, 1], null, "V"), curve("V_b", [2, 2], null, "V")]);
    const one = bench("V_a", { unit: "V" });
    const both = { ...one, curves: [...one.curves, ...bench("V_b", { unit: "V" }).curves] };
    const shapes = dots(both, volts, "plain").get("value") ?? [];
    expect(shapes.map(({ isSquare }) => isSquare)).toEqual([false, true]);
  });

  it("widen the range of a plot by their bars", () => {
    const [own] = dots(bench("V_out/V_in", {}), response, "plain").get("value") ?? [];
    expect(own && reachOf([own], "y")).toEqual([0.49, 1.01]);
    expect(reachOf([], "y")).toBeNull();
  });
});

it("has a plot of what is left over, and one of its phase where that was measured", () => {
  const gap = {
    record: "m1",
    text: "V_out",
    unit: "V",
    x: [1e3],
    less: [0.1],
    allowed: [0.2],
    inside: 1,
    count: 1,
    verdict: "agree" as const,
    sentence: "Agrees at its one point.",
    by_tolerances: true,
  };
  const beside = {
    ...bench("V_out", {}),
    gaps: [
      { ...gap, angle: null, angle_allowed: null },
      { ...gap, record: "m2", angle: [3], angle_allowed: [5] },
    ],
  };
  const panes = gapPanes(beside, look([]));
  expect(panes.map(({ pane }) => pane.unit)).toEqual(["V", "V", "°"]);
  expect(panes[2]?.band).toEqual({ x: [1e3], half: [5] });
  expect(panes[0]?.dots[0]?.y).toEqual([0.1]);
});
