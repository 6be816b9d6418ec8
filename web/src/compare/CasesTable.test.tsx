// All cases side by side: every figure in every voice, one voice as a table, and what is written into it.
import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { CaseLedger } from "../api/types";
import { useExercise } from "../document/store";
import { documentNow, forgetLooks, open, show } from "../tests/panel";
import { answerOf, onTheLine, plain, told } from "../tests/server";
import { Compare } from "./Compare";

const ledgers = () => answerOf<CaseLedger[]>("hydrophone-stage", "two cases");
const figure = (name: string) =>
  within(document.querySelector(`tbody[data-figure="${name}"]`) as HTMLElement);

async function allCases() {
  const { user } = show(<Compare />);
  await user.click(screen.getByRole("button", { name: "All cases" }));
  await vi.advanceTimersByTimeAsync(600);
  await screen.findByRole("table", { name: /Ledger of all cases/ });
  await waitFor(() => expect(document.querySelector('tbody[data-figure="A_v"]')).not.toBeNull());
  return user;
}

beforeEach(() => {
  forgetLooks();
  open("hydrophone-stage");
  vi.useFakeTimers({ shouldAdvanceTime: true });
  onTheLine({ ledgers: told("hydrophone-stage", "two cases") });
});

describe("all cases", () => {
  it("say each figure in each case, by hand, simulated and on the bench", async () => {
    await allCases();
    const rows = figure("A_v").getAllByRole("row").slice(1);
    expect(rows).toHaveLength(ledgers().length);
    for (const [k, { rows: ofCase }] of ledgers().entries()) {
      const gain = ofCase.find(({ quantity }) => quantity === "A_v");
      expect(rows[k]).toHaveTextContent(plain(gain?.simulated ?? "—"));
    }
  });

  it("take a hand value for one case alone, and let it go again", async () => {
    const user = await allCases();
    const fields = figure("A_v").getAllByRole("textbox", { name: "Hand value of A_v" });
    const field = fields[1] as HTMLElement;
    await user.clear(field);
    await user.type(field, "g_m*R3");
    const own = () =>
      documentNow().hand.filter((line) => line.case === "c1" && line.text.startsWith("A_v"));
    expect(own().map(({ text }) => text)).toContain("A_v = g_m*R3");
    await user.clear(field);
    expect(own()).toEqual([]);
  });

  it("take a reading for one case alone", async () => {
    const user = await allCases();
    const fields = figure("A_v").getAllByRole("textbox", { name: "Bench reading of A_v" });
    await user.type(fields[1] as HTMLElement, "110");
    const reading = documentNow().measurements.at(-1);
    expect(reading).toMatchObject({ text: "110", figure: { case: "c1" } });
    useExercise.getState().undo();
    expect(documentNow().measurements.at(-1)?.text).not.toBe("110");
  });

  it("show one voice as a table of figures by cases", async () => {
    const user = await allCases();
    await user.click(screen.getByRole("button", { name: "Simulated" }));
    const table = await screen.findByRole("table", { name: /simulated/ });
    const heads = within(table).getAllByRole("columnheader");
    expect(heads).toHaveLength(1 + ledgers().length);
    const gain = ledgers()[1]?.rows.find(({ quantity }) => quantity === "A_v");
    expect(table).toHaveTextContent(plain(gain?.simulated ?? "?"));
  });

  it("say why a case cannot be solved, and show the others", async () => {
    const [first, second] = ledgers();
    const broken = { ...second, rows: [], problem: "There is no ground." };
    onTheLine({ ledgers: { status: 200, answer: [first, broken] } });
    await allCases();
    expect(figure("A_v").getByText("There is no ground.")).toBeVisible();
    expect(figure("A_v").getAllByRole("row").length).toBe(3);
  });

  it("are left for the one that is looked at", async () => {
    const user = await allCases();
    await user.click(screen.getByRole("button", { name: "This case" }));
    expect(screen.queryByRole("table", { name: /Ledger of all cases/ })).toBeNull();
  });
});
