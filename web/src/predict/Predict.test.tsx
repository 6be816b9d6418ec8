// Hand working: how lines are told, what stands beside them, and the working shown.
import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Exactness, WorkingLook } from "../api/types";
import { useExercise } from "../document/store";
import { documentNow, forgetLooks, lookOf, open, show } from "../tests/panel";
import { answerOf, askedFor, onTheLine, plain, refusal, told } from "../tests/server";
import { Predict } from "./Predict";
import { closeWorking } from "./working";

const lines = () => within(screen.getByRole("list", { name: "Working" })).getAllByRole("listitem");
const line = (k: number) => within(lines()[k] as HTMLElement);

/** The first line, as the look tells it. */
function toldAs(to: object): void {
  const look = lookOf("battery-sense");
  const [first, ...others] = look.lines;
  useExercise
    .getState()
    .seen({ ...look, lines: [{ ...first, ...to } as never, ...others] }, documentNow(), null);
}

beforeEach(() => {
  forgetLooks();
  open("battery-sense");
  vi.useFakeTimers({ shouldAdvanceTime: true });
});
afterEach(closeWorking);

describe("a line", () => {
  it("shows its result", () => {
    show(<Predict />);
    const [first] = lookOf("battery-sense").lines;
    expect(line(0).getByLabelText("Result of line 1")).toHaveTextContent(
      plain(first?.result ?? "?"),
    );
  });

  it.each([
    ["equal", "exact"],
    ["approximate", "approximate"],
    ["wrong", "not right"],
  ] as const)(
    "that is %s is marked so, with the sentence where there is one",
    async (state, mark) => {
      const [first, ...others] = answerOf<Exactness[]>("battery-sense", "exact");
      const of = { ...first, state, sentence: "The load of the meter is neglected." };
      onTheLine({ exact: { status: 200, answer: [of, ...others] } });
      show(<Predict />);
      await vi.advanceTimersByTimeAsync(1_000);
      await waitFor(() => expect(line(0).getByText(mark)).toBeVisible());
      const sentence = line(0).queryByText("The load of the meter is neglected.");
      expect(sentence === null).toBe(state === "equal");
    },
  );

  it("keeps no mark of an earlier text", async () => {
    onTheLine({ exact: told("battery-sense", "exact") });
    const { user } = show(<Predict />);
    await vi.advanceTimersByTimeAsync(1_000);
    await waitFor(() => expect(line(0).getByText("exact")).toBeVisible());
    await user.type(screen.getByRole("combobox", { name: "Line 1" }), "+0");
    expect(line(0).queryByText("exact")).toBeNull();
  });

  it("says what cannot be understood, and where", async () => {
    show(<Predict />);
    toldAs({ problem: "nothing is called “R7” here", at: 11, length: 2, result: null, latex: "" });
    const said = await line(0).findByRole("button", { name: /Nothing is called/ });
    expect(within(said).getByText("R2", { selector: "mark" })).toBeInTheDocument();
  });

  it("is removed, and comes back by undo", async () => {
    const { user } = show(<Predict />);
    const count = lines().length;
    await user.click(screen.getByRole("button", { name: "Remove line 1" }));
    await waitFor(() => expect(lines()).toHaveLength(count - 1));
    useExercise.getState().undo();
    await waitFor(() => expect(lines()).toHaveLength(count));
  });

  it("is begun below by its button, with the cursor in it", async () => {
    const { user } = show(<Predict />);
    await user.click(screen.getByRole("button", { name: "Line" }));
    await user.keyboard("P_R2 = V_out^2/R2");
    expect(documentNow().hand.at(-1)?.text).toBe("P_R2 = V_out^2/R2");
  });

  it("may be a heading or a sentence", async () => {
    const { user } = show(<Predict />);
    await user.click(screen.getByRole("button", { name: "Heading" }));
    await user.keyboard("At the meter");
    expect(documentNow().hand.at(-1)).toMatchObject({ role: "heading", text: "At the meter" });
  });
});

describe("an empty page", () => {
  it("says how to begin", () => {
    open("battery-sense", (of) => {
      of.document.hand = [];
    });
    show(<Predict />);
    expect(screen.getByRole("heading", { name: /by hand first/ })).toBeVisible();
    expect(askedFor("exact")).toEqual([]);
  });
});

describe("the working of a figure", () => {
  const asked = async () => {
    const { user } = show(<Predict />);
    await user.click(screen.getByRole("button", { name: "Show the working" }));
    return user;
  };

  it("is told in every way that leads there, step by step", async () => {
    onTheLine({ working: told("battery-sense", "working of V_out") });
    const user = await asked();
    const { ways } = answerOf<WorkingLook>("battery-sense", "working of V_out");
    const leading = ways.filter(({ steps }) => steps.length);
    for (const { label, steps } of leading) {
      await user.click(await screen.findByRole("radio", { name: new RegExp(`^${label}`) }));
      const list = await screen.findByRole("list", { name: `Steps by ${label}` });
      expect(within(list).getAllByRole("listitem")).toHaveLength(steps.length);
    }
  });

  it("says why ways do not lead there", async () => {
    onTheLine({ working: told("battery-sense", "working of nothing") });
    await asked();
    expect(await screen.findByText(/no way to it/)).toBeVisible();
    expect(screen.getAllByText(/no node nowhere/)[0]).toBeInTheDocument();
  });

  it("says what the server refuses", async () => {
    onTheLine({ working: refusal(422, "The circuit cannot be solved.") });
    await asked();
    expect(await screen.findByText("The circuit cannot be solved.")).toBeVisible();
  });

  it("is closed", async () => {
    onTheLine({ working: told("battery-sense", "working of V_out") });
    const user = await asked();
    await user.click(await screen.findByRole("button", { name: "Close the working" }));
    expect(screen.queryByRole("radiogroup", { name: "Way" })).toBeNull();
  });
});
