// The ledger: what a row says, what is written into it, and what is said where figures are not to be had.
import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { CaseLedger, RowLook } from "../api/types";
import { useExercise } from "../document/store";
import { documentNow, forgetLooks, lookOf, open, show } from "../tests/panel";
import { answerOf, askedFor, onTheLine, plain, refusal, say, told } from "../tests/server";
import { Compare } from "./Compare";

const row = (quantity: string) => {
  const found = document.querySelector(`tbody[data-quantity="${quantity}"]`);
  if (!found) throw new Error(`no row of ${quantity}`);
  return within(found as HTMLElement);
};

/** The look with one row said otherwise, as the server might. */
function withRow(exercise: string, quantity: string, to: Partial<RowLook>): void {
  const look = lookOf(exercise);
  const ledger = look.ledger.map((each) =>
    each.quantity === quantity ? { ...each, ...to } : each,
  );
  useExercise.getState().seen({ ...look, ledger }, documentNow(), null);
}

beforeEach(() => {
  forgetLooks();
  open("battery-sense");
});

describe("a row of the ledger", () => {
  it("says what each voice says, and the verdict", () => {
    show(<Compare />);
    const [hand, simulated] = row("V_out").getAllByRole("cell");
    expect(hand).toHaveTextContent("2.679 V");
    expect(simulated).toHaveTextContent("2.679 V");
    expect(row("V_out").getByRole("textbox", { name: "Bench reading of V_out" })).toHaveValue(
      "2.594 V ± 0.017 V",
    );
    expect(row("V_out").getByText("agrees")).toBeVisible();
  });

  it("opens what decides, source by source", async () => {
    const { user } = show(<Compare />);
    const opens = row("V_out").getByRole("button", { name: "What decides on V_out" });
    await user.click(opens);
    expect(opens).toHaveAttribute("aria-expanded", "true");
    const [budget] = row("V_out").getAllByRole("table");
    expect(budget).toHaveTextContent("R1");
  });

  it("takes a reading as it is typed, as one edit to be undone", async () => {
    const { user } = show(<Compare />);
    const bench = row("I_R1").getByRole("textbox");
    await user.clear(bench);
    await user.type(bench, "9.8 µA ± 5 %");
    await user.tab();
    expect(documentNow().measurements.at(-1)?.text ?? "").toBe("9.8 µA ± 5 %");
    useExercise.getState().undo();
    expect(documentNow().measurements.some(({ text }) => text.includes("9.8"))).toBe(false);
  });

  it.each([
    ["hand_problem", "Hand"],
    ["simulated_problem", "Simulated"],
    ["bench_problem", "Bench"],
  ] as const)("says a %s beside the voice it is of", async (field, voice) => {
    show(<Compare />);
    withRow("battery-sense", "V_out", { [field]: "no such figure" });
    await waitFor(() => expect(row("V_out").getByText(`${voice}: no such figure.`)).toBeVisible());
  });

  it("writes the reading that counts, and no other of the same", async () => {
    open("battery-sense", ({ document }) => {
      const [first] = document.measurements;
      if (first) document.measurements.push({ ...first, id: "b9", text: "2.9 V" });
    });
    withRow("battery-sense", "V_out", { measurement: "b9" });
    const { user } = show(<Compare />);
    const bench = row("V_out").getByRole("textbox", { name: "Bench reading of V_out" });
    expect(bench).toHaveValue("2.9 V");
    const before = documentNow().measurements.map(({ text }) => text);
    await user.type(bench, "!");
    expect(documentNow().measurements.map(({ text }) => text)).toEqual([
      ...before.slice(0, -1),
      "2.9 V!",
    ]);
  });

  it("goes from its menu, to be undone", async () => {
    const { user } = show(<Compare />);
    const before = documentNow().ledger.length;
    await user.click(row("V_empty").getByRole("button", { name: /^What can be done with/ }));
    await user.click(await screen.findByRole("menuitem", { name: "Remove" }));
    expect(documentNow().ledger.length).toBe(before - 1);
    useExercise.getState().undo();
    expect(documentNow().ledger).toHaveLength(before);
  });

  it("marks a reading that cannot be read", async () => {
    show(<Compare />);
    withRow("battery-sense", "V_out", { bench_problem: "a unit of another kind", verdict: "open" });
    await waitFor(() => expect(row("V_out").getByRole("textbox")).toBeInvalid());
  });

  it("offers Why? where voices differ, and nowhere else", async () => {
    show(<Compare />);
    expect(row("V_out").queryByRole("button", { name: /^Why\?/ })).toBeNull();
    const difference = { absolute: "1 V", relative: "40 %", state: "gap" } as never;
    withRow("battery-sense", "V_out", { bench_less_simulated: difference, verdict: "gap" });
    await waitFor(() =>
      expect(row("V_out").getByRole("button", { name: /^Why\? V_out/ })).toBeVisible(),
    );
    expect(row("V_out").getByText("differs")).toBeVisible();
  });
});

describe("the ledger", () => {
  it("counts what agrees", () => {
    show(<Compare />);
    const { ledger } = lookOf("battery-sense");
    const judged = ledger.filter(({ verdict }) => verdict !== "open");
    expect(screen.getByText(new RegExp(`${judged.length} compared quantities`))).toBeVisible();
  });

  it("shows only what differs, and puts the worst first", async () => {
    const { user } = show(<Compare />);
    withRow("battery-sense", "P_R1", { verdict: "gap" });
    const quantities = () =>
      [...document.querySelectorAll("tbody[data-quantity]")].map((body) =>
        body.getAttribute("data-quantity"),
      );
    await waitFor(() => expect(row("P_R1").getByText("differs")).toBeVisible());
    await user.selectOptions(screen.getByRole("combobox", { name: "Order" }), "gravest");
    expect(quantities()[0]).toBe("P_R1");
    await user.click(screen.getByRole("checkbox", { name: /differs/ }));
    expect(quantities()).toEqual(["P_R1"]);
  });

  it("shows every simulated quantity when asked to", async () => {
    const { user } = show(<Compare />);
    const before = document.querySelectorAll("tbody[data-quantity]").length;
    await user.click(screen.getByRole("button", { name: /more simulated quantities/ }));
    expect(document.querySelectorAll("tbody[data-quantity]").length).toBeGreaterThan(before);
  });

  it("takes a row for a formula, and says what is wrong with one", async () => {
    const { user } = show(<Compare />);
    const formula = screen.getByRole("textbox", { name: /formula/ });
    await user.type(formula, "2x = V_out/V_bat{Enter}");
    expect(formula).toBeInvalid();
    await user.clear(formula);
    await user.type(formula, "k = V_out/V_bat{Enter}");
    expect(formula).toHaveValue("");
    expect(documentNow().ledger.at(-1)).toMatchObject({
      name: "k",
      figure: { of: "formula", formula: "V_out/V_bat" },
    });
  });

  it.each([
    ["5", 0.05],
    ["2,5 %", 0.025],
    ["", null],
    ["-3", null],
    ["400", null],
  ])("understands “%s” per cent allowed as %s", async (typed, share) => {
    const { user } = show(<Compare />);
    const allowed = screen.getByRole("textbox", { name: /per cent/ });
    if (typed) await user.type(allowed, typed);
    await user.tab();
    expect(documentNow().allowed ?? null).toBe(share);
  });

  it("says that nothing can be simulated, and why", async () => {
    show(<Compare />);
    const look = { ...lookOf("battery-sense"), unsolved: "there is no ground" };
    useExercise.getState().seen(look, documentNow(), null);
    expect(await screen.findByText(/there is no ground/)).toBeVisible();
  });
});

describe("slow figures", () => {
  beforeEach(() => {
    open("time-signal-filter");
    vi.useFakeTimers({ shouldAdvanceTime: true });
  });

  it("come when they are solved, with progress that can be cancelled", async () => {
    const { user } = show(<Compare />);
    await vi.advanceTimersByTimeAsync(500);
    say("ledgers", { progress: 0.4 });
    const bar = await screen.findByRole("progressbar", { name: "Ledger worked out" });
    expect(bar).toHaveValue(0.4);
    await user.click(screen.getByRole("button", { name: "Cancel" }));
    expect(askedFor("cancel")).toHaveLength(1);
    say("ledgers", { status: 422 }, refusal(422, "The run was cancelled.").answer);
    expect(await screen.findByText("The run was cancelled.")).toBeVisible();
    expect(screen.queryByRole("progressbar")).toBeNull();
  });

  it("are asked for once more in a component that is mounted twice", async () => {
    onTheLine({ ledgers: told("time-signal-filter", "ledger") });
    show(<Compare />);
    await vi.advanceTimersByTimeAsync(500);
    const [ledger] = answerOf<CaseLedger[]>("time-signal-filter", "ledger");
    const width = ledger?.rows.find(({ quantity }) => quantity === "B");
    await waitFor(() =>
      expect(row("B").getAllByRole("cell")[1]).toHaveTextContent(plain(width?.simulated ?? "?")),
    );
    expect(screen.getByRole("table", { name: "Curves" })).toBeVisible();
  });

  it("are said to be missing where the server does not answer", async () => {
    onTheLine({ ledgers: refusal(422, "The circuit cannot be solved.") });
    show(<Compare />);
    await vi.advanceTimersByTimeAsync(500);
    expect(await screen.findByText("The circuit cannot be solved.")).toBeVisible();
    expect(row("B").getByText(/33|kHz|Hz/, { selector: "td.voice-hand" })).toBeVisible();
  });
});
