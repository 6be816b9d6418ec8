// How plots are looked at: what is drawn, on which axes, with what limits.
import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { show } from "../tests/panel";
import { Axes, canBeLog } from "./Axes";
import type { Looks, Pane } from "./drawing/panes";

const LOOKS = {
  form: "decibels",
  magnitude: true,
  phase: true,
  isWrapped: false,
  together: false,
} as Looks;
const pane = (key: string, unit: string, y: (number | null)[] = [1, 2]): Pane =>
  ({ key, unit, title: "", traces: [{ label: key, y }] }) as unknown as Pane;

function shown(to: Partial<Parameters<typeof Axes>[0]> = {}) {
  const told = { onLooks: vi.fn(), onLog: vi.fn(), onLimits: vi.fn() };
  const put = show(
    <Axes
      panes={[pane("V_out", "V"), pane("I_R1", "A")]}
      looks={LOOKS}
      isPhasors
      log={[true, false]}
      canLog={[true, true]}
      limits={{}}
      {...told}
      {...to}
    />,
  );
  const tick = (name: string) => screen.getByRole("checkbox", { name, hidden: true });
  return { ...put, ...told, tick };
}

describe("axes", () => {
  it("are logarithmic or not, each by itself", async () => {
    const { user, tick, onLog } = shown();
    await user.click(tick("Log x axis"));
    expect(onLog).toHaveBeenLastCalledWith(false, false);
    await user.click(tick("Log y axis"));
    expect(onLog).toHaveBeenLastCalledWith(true, true);
  });

  it("are not offered by the logarithm where there is nothing above zero", () => {
    const { tick } = shown({ canLog: [true, false] });
    expect(tick("Log y axis")).toBeDisabled();
    expect(canBeLog(pane("V_out", "V", [-1, null, 0]))).toBe(false);
    expect(canBeLog(pane("V_out", "V", [-1, null, 2]))).toBe(true);
    expect(canBeLog(pane("V_out/V_in", "dB"))).toBe(false);
  });

  it("leave at least one of magnitude and phase", async () => {
    const { user, tick, onLooks } = shown();
    await user.click(tick("Phase"));
    expect(onLooks).toHaveBeenLastCalledWith({ ...LOOKS, phase: false });
    expect(tick("Magnitude")).toBeEnabled();
  });

  it("cannot lose the last of them", () => {
    const { tick } = shown({ looks: { ...LOOKS, phase: false } });
    expect(tick("Magnitude")).toBeDisabled();
    expect(tick("Phase from −180° to 180°")).toBeDisabled();
  });

  it.each([
    [2, true],
    [3, false],
  ])("are shared by two units alone: %i", (units, is) => {
    const all = [pane("V_out", "V"), pane("I_R1", "A"), pane("P_R1", "W")];
    const { tick } = shown({ panes: all.slice(0, units) });
    expect(tick("Two units in one plot").matches(":enabled")).toBe(is);
  });

  it("have limits as they are typed, with prefixes, and none where nothing is", async () => {
    const { user, onLimits } = shown({ limits: { V_out: [0.5, null] } });
    const from = screen.getByLabelText("V_out from");
    expect(from).toHaveValue("500\u00a0mV");
    await user.clear(from);
    expect(onLimits).toHaveBeenLastCalledWith("V_out", [null, null]);
    await user.type(screen.getByLabelText("I_R1 to"), "2m");
    expect(onLimits).toHaveBeenLastCalledWith("I_R1", [null, 2e-3]);
  });
});
