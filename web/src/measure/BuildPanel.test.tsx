// What stands on the bench: its number, what is fixed, what is wrong with it, and the seal.
import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { useExercise } from "../document/store";
import { WithCatalogue } from "../schematic/editor/catalogue";
import { documentNow, forgetLooks, open, show } from "../tests/panel";
import { askedFor, onTheLine, refusal } from "../tests/server";
import { BuildPanel } from "./BuildPanel";

const build = () => documentNow().build;
const idOf = (name: string) =>
  documentNow().schematic.parts.find((part) => part.name === name)?.id ?? "?";

async function opened() {
  const put = show(
    <WithCatalogue>
      <BuildPanel />
    </WithCatalogue>,
  );
  await put.user.click(await screen.findByRole("button", { name: /^Build/ }));
  return { ...put, panel: within(screen.getByRole("dialog")) };
}

beforeEach(() => {
  forgetLooks();
  open("battery-sense");
});

describe("a build", () => {
  it("is known by its number, which is on its button", async () => {
    const { user, panel } = await opened();
    await user.clear(panel.getByLabelText("Build number"));
    await user.type(panel.getByLabelText("Build number"), "4x2");
    expect(build().seed).toBe(42);
    await user.click(panel.getByRole("button", { name: "Close" }));
    expect(screen.getByRole("button", { name: "Build 42" })).toBeVisible();
  });

  it("is of other parts at a press, to be undone", async () => {
    const { user, panel } = await opened();
    const before = build().seed;
    await user.click(panel.getByRole("button", { name: "Other parts out of the drawer" }));
    expect(build().seed).not.toBe(before);
    useExercise.getState().undo();
    expect(build().seed).toBe(before);
  });

  it("may be without imperfections, and drawn more often near the middle", async () => {
    const { user, panel } = await opened();
    await user.click(panel.getByRole("checkbox", { name: /Without imperfections/ }));
    await user.selectOptions(panel.getByLabelText("Values within their tolerance"), "normal");
    expect(build()).toMatchObject({ ideal: true, distribution: "normal" });
  });

  it.each([
    ["40,5", 40.5],
    ["-20", -20],
    ["900", 27],
    ["warm", 27],
  ])("is as warm as is written, where that can be: %s", async (text, is) => {
    useExercise.getState().edit((document) => {
      document.build.temperature = 27;
    });
    const { user, panel } = await opened();
    const field = panel.getByLabelText("Temperature [°C]");
    await user.clear(field);
    await user.type(field, text);
    await user.tab();
    expect(build().temperature).toBe(is);
  });
});

describe("a fixed value", () => {
  it("names a part, which of its values, and what it is; and is drawn again", async () => {
    const { user, panel } = await opened();
    await user.click(panel.getByRole("button", { name: "Fix a value" }));
    await user.selectOptions(panel.getByLabelText("Part with a fixed value"), "R2");
    await user.selectOptions(panel.getByLabelText("Which of its values"), "Resistance");
    await user.type(panel.getByLabelText("Its fixed value"), "281k");
    expect(build().fixed).toEqual([{ part: idOf("R2"), key: "resistance", text: "281k" }]);
    await user.click(panel.getByRole("button", { name: "Let it be drawn" }));
    expect(build().fixed).toEqual([]);
  });

  it("of another part is another value", async () => {
    const { user, panel } = await opened();
    await user.click(panel.getByRole("button", { name: "Fix a value" }));
    await user.selectOptions(panel.getByLabelText("Part with a fixed value"), "R2");
    await user.selectOptions(panel.getByLabelText("Which of its values"), "Resistance");
    await user.selectOptions(panel.getByLabelText("Part with a fixed value"), "V1");
    expect(build().fixed[0]).toMatchObject({ part: idOf("V1"), key: "" });
    const values = within(panel.getByLabelText("Which of its values")).getAllByRole("option");
    expect(values.map((value) => value.textContent)).toContain("Voltage");
  });
});

describe("a fault", () => {
  const planted = async () => {
    const put = await opened();
    await put.user.click(put.panel.getByRole("button", { name: "Plant a fault" }));
    return put;
  };

  it("may be a value that is off by a factor", async () => {
    const { user, panel } = await planted();
    await user.selectOptions(panel.getByLabelText("Part that is wrong"), "R1");
    await user.selectOptions(panel.getByLabelText("By what factor"), "0.1");
    expect(build().faults[0]).toMatchObject({ part: idOf("R1"), does: "factor", factor: 0.1 });
  });

  it("exchanges parts of one kind alone", async () => {
    const { user, panel } = await planted();
    await user.selectOptions(panel.getByLabelText("Part that is wrong"), "R1");
    await user.selectOptions(panel.getByLabelText("What is wrong with it"), "exchange");
    const others = within(panel.getByLabelText("With which part")).getAllByRole("option");
    expect(others.map((other) => other.textContent)).toEqual(["R2"]);
    expect(build().faults[0]).toMatchObject({ does: "exchange", other: idOf("R2") });
  });

  it("puts a wire on the row of a node that is there, and not on ground's", async () => {
    const { user, panel } = await planted();
    await user.selectOptions(panel.getByLabelText("What is wrong with it"), "wire");
    const rows = within(panel.getByLabelText("On the row of node")).getAllByRole("option");
    expect(rows.map((row) => row.textContent)).toEqual(["which node", "bat", "out"]);
    await user.selectOptions(panel.getByLabelText("On the row of node"), "out");
    expect(build().faults[0]).toMatchObject({ does: "wire", node: "out" });
  });

  it("is mended", async () => {
    const { user, panel } = await planted();
    await user.click(panel.getByRole("button", { name: "Mend" }));
    expect(build().faults).toEqual([]);
  });
});

describe("a seal", () => {
  it("is put on with a word, and only the server knows what is behind it", async () => {
    const { user, panel } = await opened();
    const sealed = { ...build(), seed: 0, faults: [], fixed: [], sealed: "x1" };
    onTheLine({ seal: { status: 200, answer: sealed } });
    expect(panel.getByRole("button", { name: "Seal" })).toBeDisabled();
    await user.type(panel.getByLabelText("Word"), "tern");
    await user.click(panel.getByRole("button", { name: "Seal" }));
    await waitFor(() => expect(build().sealed).toBe("x1"));
    expect(askedFor("seal").at(-1)).toMatchObject({ word: "tern" });
    expect(screen.getByRole("button", { name: "Build sealed", hidden: true })).toBeInTheDocument();
    expect(within(screen.getByRole("dialog")).queryByText("Faults")).toBeNull();
  });

  it("stays where the word is another, and says so", async () => {
    useExercise.getState().edit((document) => {
      document.build.sealed = "x1";
    });
    const { user, panel } = await opened();
    onTheLine({ unseal: refusal(422, "That is not the word.") });
    await user.type(panel.getByLabelText("Word"), "gull");
    await user.click(panel.getByRole("button", { name: "Open it" }));
    expect(await screen.findByText("That is not the word.")).toBeVisible();
    expect(build().sealed).toBe("x1");
  });
});
