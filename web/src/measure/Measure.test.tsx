// The bench: what a way to measure is told, a reading taken, and what is said where none can be.
import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { PlanLook, TakenLook } from "../api/types";
import { useBench } from "../bench/bench";
import { useExercise } from "../document/store";
import { documentNow, forgetLooks, open, show } from "../tests/panel";
import { answerOf, askedFor, onTheLine, plain, refusal, told } from "../tests/server";
import { Measure } from "./Measure";

const start = useBench.getState();
const plan = (to: Partial<PlanLook> = {}) => ({
  status: 200,
  answer: { ...answerOf<PlanLook>("battery-sense", "meter"), ...to },
});
const rows = () => within(screen.getByRole("table", { name: "Readings" })).getAllByRole("row");

async function meter() {
  const put = show(<Measure />);
  await put.user.click(
    within(screen.getByRole("list", { name: "Ways to measure" })).getByRole("button", {
      name: "Meter",
    }),
  );
  await screen.findByRole("region", { name: "Meter" });
  return put;
}

beforeEach(() => {
  forgetLooks();
  open("battery-sense");
  onTheLine({ plan: plan(), take: told("battery-sense", "reading") });
});
afterEach(() => useBench.setState(start, true));

describe("the meter", () => {
  it("says where its leads go", async () => {
    await meter();
    const leads = screen.getByRole("list", { name: "Where the leads go" });
    for (const { words } of answerOf<PlanLook>("battery-sense", "meter").leads)
      expect(leads).toHaveTextContent(plain(words));
  });

  it("keeps a reading with its uncertainty, the instrument's settings and the time", async () => {
    const { user } = await meter();
    const before = documentNow().measurements.length;
    await user.click(screen.getByRole("button", { name: "Read" }));
    await waitFor(() => expect(documentNow().measurements).toHaveLength(before + 1));
    const [column] = answerOf<TakenLook>("battery-sense", "reading").columns;
    expect(documentNow().measurements.at(-1)).toMatchObject({ text: column?.text });
    expect(documentNow().measurements.at(-1)?.recipe?.way).toBe("meter");
    expect(rows().at(-1)).toHaveTextContent(plain(column?.text ?? "?"));
  });

  it("throws a reading away, to be undone", async () => {
    const { user } = await meter();
    const before = documentNow().measurements.length;
    await user.click(screen.getAllByRole("button", { name: /^Throw away/ })[0] as HTMLElement);
    expect(documentNow().measurements).toHaveLength(before - 1);
    useExercise.getState().undo();
    expect(documentNow().measurements).toHaveLength(before);
  });

  it("asks for its plan again with a setting that is chosen", async () => {
    const { user } = await meter();
    await user.selectOptions(screen.getByRole("combobox", { name: "At" }), "bat");
    await waitFor(() =>
      expect(
        askedFor<{ recipe: { settings: object } }>("plan").at(-1)?.recipe.settings,
      ).toMatchObject({
        at: "bat",
      }),
    );
  });

  it("says what is in the way of a plan", async () => {
    onTheLine({ plan: plan({ problem: "Nothing carries a current here." }) });
    await meter();
    expect(await screen.findByRole("alert")).toHaveTextContent("Nothing carries a current here.");
  });

  it("says what the bench says against a reading, and takes none", async () => {
    const { user } = await meter();
    const before = documentNow().measurements.length;
    onTheLine({ plan: plan(), take: refusal(422, "The meter of Bench 3 does not answer.") });
    await user.click(screen.getByRole("button", { name: "Read" }));
    expect(await screen.findByText(/does not answer/)).toBeVisible();
    expect(documentNow().measurements).toHaveLength(before);
  });
});

describe("other ways to measure", () => {
  const way = async (exercise: string, name: string, plan: string, taken: string) => {
    open(exercise);
    onTheLine({ plan: told(exercise, plan), take: told(exercise, taken) });
    const put = show(<Measure />);
    const ways = within(screen.getByRole("list", { name: "Ways to measure" }));
    await put.user.click(ways.getByRole("button", { name }));
    return put;
  };

  it("take a part out, and keep its value with what stands in series", async () => {
    const { user } = await way("time-signal-filter", "Component", "component", "a coil");
    expect(await screen.findByRole("list", { name: "Where the leads go" })).toHaveTextContent(
      "Take L1 out",
    );
    await user.click(screen.getByRole("button", { name: "Read" }));
    const [column] = answerOf<TakenLook>("time-signal-filter", "a coil").columns;
    await waitFor(() => expect(rows().at(-1)).toHaveTextContent(plain(column?.text ?? "?")));
    expect(documentNow().measurements.at(-1)?.recipe?.way).toBe("component");
  });

  it("step a source, point by point, into one record; Enter begins as the button does", async () => {
    const { user } = await way("lamp-curve", "Curve", "curve", "a point");
    const before = documentNow().records.length;
    await user.type(await screen.findByRole("textbox", { name: "Steps" }), "3{Enter}");
    const { points } = answerOf<PlanLook>("lamp-curve", "curve");
    await waitFor(() => expect(askedFor("take")).toHaveLength(points.length));
    expect(askedFor<{ at: number }>("take").map(({ at }) => at)).toEqual(points);
    await waitFor(() =>
      expect(documentNow().records.at(-1)?.columns[1]?.values).toHaveLength(points.length),
    );
    expect(documentNow().records).toHaveLength(before + 1);
    useExercise.getState().undo();
    expect(documentNow().records).toHaveLength(before);
  });
});

describe("a bench with nothing measured yet", () => {
  it("offers the ways to measure with the question each answers", async () => {
    open("battery-sense", (of) => {
      of.document.measurements = [];
      of.document.records = [];
    });
    const { user } = show(<Measure />);
    await user.click(screen.getByRole("button", { name: /^Component.*taken out/ }));
    expect(useBench.getState().way).toBe("component");
  });

  it("says why there is no plan at all", async () => {
    onTheLine({ plan: refusal(422, "Nothing is drawn yet that could be measured.") });
    const { user } = show(<Measure />);
    await user.click(
      within(screen.getByRole("list", { name: "Ways to measure" })).getByRole("button", {
        name: "Meter",
      }),
    );
    expect(await screen.findByText(/Nothing is drawn yet/)).toBeVisible();
  });
});
