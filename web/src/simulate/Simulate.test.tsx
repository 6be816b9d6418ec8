// A run: what it is told, what it shows, and what is said while it is slow, refused or out of date.
import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { MarksLook, RunLook } from "../api/types";
import { useExercise } from "../document/store";
import { useChosenRun } from "../plots/runsOf";
import { documentNow, forgetLooks, open, show } from "../tests/panel";
import {
  answerOf,
  askedFor,
  onTheLine,
  overTheNet,
  plain,
  refusal,
  say,
  told,
} from "../tests/server";
import { Simulate } from "./Simulate";

const asRun = (exercise: string, run: string, to: Partial<RunLook> = {}) => ({
  status: 200,
  answer: { ...answerOf<RunLook>(exercise, `run ${run}`), ...to },
});

/** The station, with a run of the exercise shown and answered. */
async function shown(exercise: string, run: string, to: Partial<RunLook> = {}) {
  open(exercise);
  const id = documentNow().runs.find(({ name }) => name === run)?.id ?? "";
  useChosenRun.setState({ id });
  const marks = documentNow().runs.find((each) => each.id === id)?.markers.length;
  onTheLine({
    run: asRun(exercise, run, to),
    beside: told(exercise, `beside ${run}`),
    ...(marks ? { marks: told(exercise, `marks ${run}`) } : {}),
  });
  const put = show(<Simulate />);
  await screen.findByRole("region", { name: run });
  return { ...put, id };
}

const settings = (id: string) => documentNow().runs.find((run) => run.id === id)?.settings;

beforeEach(forgetLooks);

describe("what a run is told", () => {
  it("proposes what is left empty, from the circuit", async () => {
    await shown("hydrophone-stage", "Gain");
    const look = answerOf<RunLook>("hydrophone-stage", "run Gain");
    const from = look.settings.find(({ key }) => key === "from");
    const field = await screen.findByRole("textbox", { name: "From" });
    await waitFor(() => expect(field).toHaveAttribute("placeholder", from?.proposed));
  });

  it("keeps what is typed as one edit, and asks for the run again", async () => {
    const { user, id } = await shown("hydrophone-stage", "Gain");
    const before = askedFor("run").length;
    await user.type(await screen.findByRole("textbox", { name: "To" }), "2 MHz");
    expect(settings(id)).toMatchObject({ to: "2 MHz" });
    await waitFor(() => expect(askedFor("run").length).toBeGreaterThan(before));
    useExercise.getState().undo();
    expect(settings(id)?.to ?? "").not.toContain("2 MHz");
  });

  it("marks a setting that no run could use", async () => {
    const { settings: looks } = answerOf<RunLook>("hydrophone-stage", "run Gain");
    const wrong = looks.map((look) =>
      look.key === "to" ? { ...look, text: "-5", problem: "A frequency is above zero" } : look,
    );
    const { user } = await shown("hydrophone-stage", "Gain", {
      settings: wrong,
      problem: "A frequency is above zero.",
    });
    await user.type(screen.getByRole("textbox", { name: "To" }), "-5");
    await waitFor(() => expect(screen.getByRole("textbox", { name: "To" })).toBeInvalid());
    expect(screen.getByRole("alert")).toHaveTextContent("above zero");
  });

  it("shows a further formula, and says what is wrong with one", async () => {
    const { user, id } = await shown("hydrophone-stage", "Gain");
    await user.type(await screen.findByRole("combobox", { name: "Show also" }), "V_b/V_in{Enter}");
    expect(documentNow().runs.find((run) => run.id === id)?.show).toContain("V_b/V_in");
    const items = [{ text: "V_uot", problem: "did you mean V_out" }];
    onTheLine({ run: asRun("hydrophone-stage", "Gain", { shown: items as never }) });
    await user.type(screen.getByRole("combobox", { name: "Show also" }), "V_uot{Enter}");
    expect(await screen.findByText(/did you mean/)).toBeVisible();
  });

  it("is renamed, duplicated, moved and removed", async () => {
    const { user, id } = await shown("hydrophone-stage", "Gain");
    const names = () => documentNow().runs.map(({ name }) => name);
    const before = names();
    await user.click(screen.getByRole("button", { name: "Move this run left" }));
    expect(names().indexOf("Gain")).toBe(before.indexOf("Gain") - 1);
    await user.click(screen.getByRole("button", { name: "Duplicate this run" }));
    expect(names()).toHaveLength(before.length + 1);
    useChosenRun.setState({ id });
    await user.click(await screen.findByRole("button", { name: "Remove this run" }));
    expect(documentNow().runs.some((run) => run.id === id)).toBe(false);
  });

  it("offers every analysis where there is no run yet", async () => {
    open("battery-sense", (of) => {
      of.document.runs = [];
    });
    const { user } = show(<Simulate />);
    await user.click(await screen.findByRole("button", { name: /^Transient/ }));
    expect(documentNow().runs).toHaveLength(1);
    expect(documentNow().runs[0]?.analysis).toBe("transient");
  });
});

describe("what a run shows", () => {
  it("tells its readings", async () => {
    await shown("time-signal-filter", "Response");
    const [curve] = answerOf<RunLook>("time-signal-filter", "run Response").curves;
    const list = await screen.findByRole("list", { name: "Readings" });
    for (const reading of curve?.readings.filter(({ text }) => text) ?? [])
      expect(within(list).getAllByText(plain(reading.label)).length).toBeGreaterThan(0);
  });

  it("tells what stands at its markers and between them", async () => {
    await shown("hydrophone-stage", "Input and output");
    const look = answerOf<MarksLook>("hydrophone-stage", "marks Input and output");
    const table = await screen.findByRole("table", { name: "Markers" });
    expect(within(table).getByRole("columnheader", { name: "B − A" })).toBeVisible();
    const between = within(await screen.findByLabelText("Between the markers"));
    for (const { text } of look.between) expect(between.getByText(plain(text))).toBeVisible();
  });

  it("clears its markers, to be undone", async () => {
    const { user, id } = await shown("hydrophone-stage", "Input and output");
    const marks = () => documentNow().runs.find((run) => run.id === id)?.markers;
    await user.click(await screen.findByRole("button", { name: "Clear the markers" }));
    expect(marks()).toEqual([]);
    useExercise.getState().undo();
    expect(marks()).toHaveLength(2);
  });

  it("goes on to the next place of a kind, or says that there is none", async () => {
    const { user } = await shown("hydrophone-stage", "Input and output");
    const answer = answerOf<MarksLook>("hydrophone-stage", "marks Input and output");
    const nothing = { ...answer, problem: "There is no further peak." };
    onTheLine({ marks: { status: 200, answer: nothing } });
    await user.click(
      (await screen.findAllByRole("button", { name: /peak|maximum/i }))[0] as HTMLElement,
    );
    expect(askedFor<{ jump?: string }>("marks").at(-1)?.jump).toBeTruthy();
    expect((await screen.findAllByText("There is no further peak."))[0]).toBeVisible();
  });

  it("puts a figure between the markers into the ledger", async () => {
    const { user } = await shown("hydrophone-stage", "Input and output");
    const before = documentNow().ledger.length;
    const between = within(await screen.findByLabelText("Between the markers"));
    await user.click(between.getAllByTitle("Add to the ledger")[0] as HTMLElement);
    await waitFor(() => expect(documentNow().ledger).toHaveLength(before + 1));
  });

  it("shows tables where there are no curves", async () => {
    await shown("battery-sense", "Operating point");
    const { tables } = answerOf<RunLook>("battery-sense", "run Operating point");
    for (const { title } of tables)
      expect(await screen.findByRole("table", { name: title })).toBeVisible();
  });
});

describe("beside curves", () => {
  const asked = async (setting: string, choice: string) => {
    const { user, id } = await shown("feed-line", "Currents at the feed");
    const before = askedFor("run").length;
    await user.selectOptions(await screen.findByRole("combobox", { name: setting }), choice);
    await waitFor(() => expect(askedFor("run").length).toBeGreaterThan(before));
    return settings(id);
  };

  it("phasors are arrows, each named with what it is", async () => {
    await shown("feed-line", "Currents at the feed");
    const [group] = answerOf<RunLook>("feed-line", "run Currents at the feed").phasors;
    const picture = await screen.findByRole("img", { name: RegExp(`^${group?.title}`) });
    expect(group?.arrows.length).toBeGreaterThan(2);
    for (const { name, text } of group?.arrows ?? [])
      expect(picture.getAttribute("aria-label")).toContain(`${name} ${text}`);
  });

  it.each([
    ["Arrows", "currents at n1", { sum: "at n1" }],
    ["Show as", "RMS values", { told: "RMS" }],
  ])("phasors are shown otherwise: %s", async (setting, choice, kept) => {
    expect(await asked(setting, choice)).toMatchObject(kept);
  });

  it("harmonics are bars, and rows of a table", async () => {
    await shown("flow-integrator", "Harmonics");
    const { bars, tables } = answerOf<RunLook>("flow-integrator", "run Harmonics");
    const list = within(await screen.findByRole("list", { name: "Harmonics" }));
    expect(list.getAllByRole("listitem")).toHaveLength(bars.length);
    const rows = tables.find(({ title }) => title === "Harmonics")?.rows ?? [];
    const table = within(screen.getByRole("table", { name: "Harmonics" }));
    expect(table.getAllByRole("row")).toHaveLength(rows.length + 1);
  });

  it("roots lie in the plane of s", async () => {
    await shown("time-signal-filter", "Roots");
    const { roots } = answerOf<RunLook>("time-signal-filter", "run Roots");
    const picture = await screen.findByRole("img", { name: /^The plane of s/ });
    for (const { text } of roots) expect(picture.getAttribute("aria-label")).toContain(text);
    expect(picture.querySelectorAll("circle")).toHaveLength(1); // the zero
  });

  it("a response is one path in the plane, when asked to", async () => {
    const { user } = await shown("time-signal-filter", "Response");
    await user.click(await screen.findByText("Nyquist"));
    expect(await screen.findByRole("img", { name: /^Path in the plane/ })).toBeVisible();
  });

  it("a formula is drawn over what is simulated", async () => {
    const { user } = await shown("anti-alias-ladder", "Formula");
    const { formulas } = answerOf<RunLook>("anti-alias-ladder", "run Formula");
    for (const { title } of formulas.filter(({ title }) => title))
      expect(await screen.findByRole("region", { name: title })).toBeVisible();
    await user.click(screen.getByRole("button", { name: "Draw it over the simulated one" }));
    const drawn = formulas.find(({ text }) => text);
    expect(documentNow().runs.at(-1)).toMatchObject({
      analysis: "frequency_sweep",
      show: [drawn?.beside, drawn?.text],
    });
  });

  it("a figure of a table goes into the ledger, by its row and what it is", async () => {
    const { user } = await shown("hydrophone-stage", "Undistorted");
    const [table] = answerOf<RunLook>("hydrophone-stage", "run Undistorted").tables;
    const largest = table?.rows.find((row) => row.key === "output")?.cells[1];
    await user.click(await screen.findByRole("button", { name: RegExp(`^${largest?.text},`) }));
    expect(documentNow().ledger.at(-1)).toMatchObject({
      figure: { of: "cell", run: "r4", table: "largest", row: "output", column: "value" },
      pinned: { value: largest?.value, unit: "V" },
    });
  });

  it("a measured figure is the bench's: nothing of it stands as simulated", async () => {
    const { id, user } = await shown("flow-integrator", "Square in, triangle out");
    const before = documentNow().ledger.length;
    const bench = within(await screen.findByRole("region", { name: "Bench" }));
    const [take] = await bench.findAllByRole("button", { name: /^measured .*to the ledger$/ });
    await user.click(take as HTMLElement);
    expect(documentNow().ledger).toHaveLength(before + 1);
    expect(documentNow().ledger.at(-1)).toMatchObject({
      figure: { of: "curve", run: id, record: "" },
      pinned: null,
    });
  });

  it("a result that the server has forgotten is had again, and the bench beside it", async () => {
    open("flow-integrator");
    const name = "Square in, triangle out";
    const run = documentNow().runs.find((each) => each.name === name);
    useChosenRun.setState({ id: run?.id ?? "" });
    let runs = 0;
    let forgotten: string | null = null;
    onTheLine({
      run: () => {
        runs += 1;
        return asRun("flow-integrator", name, { result: `result ${runs}` });
      },
      beside: ({ result }: { result: string }) => {
        forgotten ??= result;
        return result === forgotten
          ? refusal(410, "Not kept.")
          : told("flow-integrator", `beside ${name}`);
      },
    });
    show(<Simulate />);
    expect(await screen.findByRole("region", { name: "Bench" })).toBeVisible();
    expect(askedFor("beside").at(-1)).toMatchObject({ result: `result ${runs}` });
  });

  it("each case has its curve", async () => {
    const { id, user } = await shown("hydrophone-stage", "In all cases");
    const { curves } = answerOf<RunLook>("hydrophone-stage", "run In all cases");
    const list = within(await screen.findByRole("list", { name: "Readings" }));
    for (const { text, member } of curves)
      expect(list.getByRole("button", { name: `Show ${text}, ${member?.label}` })).toBeVisible();
    await user.selectOptions(screen.getByRole("combobox", { name: "Repeat for" }), "one value");
    expect(settings(id)).toMatchObject({ vary: "" });
  });
});

describe("a run that is not to be had", () => {
  it("says why, and keeps the last result pale below", async () => {
    const { user } = await shown("hydrophone-stage", "Gain");
    await screen.findByRole("list", { name: "Readings" });
    onTheLine({
      run: asRun("hydrophone-stage", "Gain", { problem: "There is no ground.", curves: [] }),
    });
    await user.type(screen.getByRole("textbox", { name: "To" }), "1 MHz");
    expect(await screen.findByText(/There is no ground\./)).toBeVisible();
    expect(screen.getByRole("list", { name: "Readings" })).toBeInTheDocument();
  });

  it("tells how far it is, and is cancelled", async () => {
    open("hydrophone-stage");
    useChosenRun.setState({ id: "r2" });
    const { user } = show(<Simulate />);
    await waitFor(() => expect(askedFor("run").length).toBeGreaterThan(0));
    say("run", { progress: 0.37 });
    expect(await screen.findByRole("progressbar", { name: "Progress of the run" })).toHaveValue(
      0.37,
    );
    await user.click(screen.getByRole("button", { name: "Cancel" }));
    expect(askedFor("cancel").length).toBeGreaterThan(0);
    say("run", { status: 422 }, refusal(422, "The run was cancelled.").answer);
    expect(await screen.findByRole("alert")).toHaveTextContent("was cancelled");
  });

  it("is marked out of date where it is slow, and run again when asked to", async () => {
    const { user, id } = await shown("hydrophone-stage", "Undistorted", { seconds: 3 });
    const region = screen.getByRole("region", { name: "Undistorted" });
    await waitFor(() => expect(region).toHaveAttribute("aria-busy", "false"));
    const { look } = useExercise.getState();
    const runs = look?.runs.map((run) => (run.id === id ? { ...run, fingerprint: "other" } : run));
    useExercise.setState({ look: { ...look, runs } as never });
    const before = askedFor("run").length;
    await user.click(await screen.findByRole("button", { name: /Run again/ }));
    await waitFor(() => expect(askedFor("run").length).toBe(before + 1));
  });

  it("of an analysis that is not known is said to be so", async () => {
    open("battery-sense", (of) => {
      of.document.runs = [{ ...of.document.runs[0], analysis: "guess" } as never];
    });
    show(<Simulate />);
    expect(await screen.findByText(/not known here/)).toBeVisible();
  });

  it("says that the server does not answer", async () => {
    overTheNet((_, path) => (path === "/api/analyses" ? new TypeError("no network") : undefined));
    open("battery-sense");
    show(<Simulate />);
    expect(await screen.findByText(/does not answer/)).toBeVisible();
  });
});
