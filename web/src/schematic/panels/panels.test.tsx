// What stands around the sheet: findings with their mends, cases, parameters.
import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Finding } from "../../api/types";
import { useExercise } from "../../document/store";
import { documentNow, forgetLooks, lookOf, open, show } from "../../tests/panel";
import { askedFor, onTheLine, told } from "../../tests/server";
import { WithCatalogue } from "../editor/catalogue";
import { useEditorStore } from "../editor/tools";
import { CaseSwitch } from "./CaseSwitch";
import { Findings } from "./Findings";
import { Parameters } from "./Parameters";

const finding = (to: Partial<Finding> = {}): Finding =>
  ({
    code: "no_ground",
    severity: "fault",
    sentence: "There is no ground.",
    place: { parts: [], wires: [], labels: [], points: [] },
    mends: [],
    ...to,
  }) as Finding;

function found(...findings: Finding[]): void {
  const look = { ...lookOf("battery-sense"), findings };
  useExercise.getState().seen(look, documentNow(), null);
}

describe("findings", () => {
  beforeEach(() => {
    forgetLooks();
    open("battery-sense");
  });
  const panel = () =>
    show(
      <WithCatalogue>
        <Findings />
      </WithCatalogue>,
    );

  it("say that the circuit is complete", () => {
    panel();
    expect(screen.getByRole("region", { name: "Findings" })).toHaveTextContent("complete");
  });

  it("tell a fault from a doubt", async () => {
    panel();
    found(finding(), finding({ code: "unlikely", severity: "doubt", sentence: "R1 is large." }));
    const rows = await screen.findAllByRole("listitem");
    expect(within(rows[0] as HTMLElement).getByLabelText("Fault")).toBeVisible();
    expect(within(rows[1] as HTMLElement).getByLabelText("Doubt")).toBeVisible();
  });

  it("choose what they are about when pressed, and point at it", async () => {
    const { user } = panel();
    const [part] = documentNow().schematic.parts;
    found(
      finding({ place: { parts: [part?.id ?? ""], wires: [], labels: [], points: [] } as never }),
    );
    const row = await screen.findByRole("button", { name: "There is no ground." });
    await user.hover(row);
    expect(useEditorStore.getState().focusedFinding?.ids.has(part?.id ?? "")).toBe(true);
    await user.click(row);
    expect([...useEditorStore.getState().chosen]).toContain(part?.id);
  });

  it("wait while the hand draws, until it is asked", async () => {
    const { user } = panel();
    useExercise.getState().edit((document) => {
      document.schematic.parts.pop();
    });
    found(finding());
    await user.click(await screen.findByRole("button", { name: "Check now" }));
    expect(await screen.findByText("There is no ground.")).toBeVisible();
  });

  it("say what is not checked since the last edit", async () => {
    panel();
    const behind = { message: "The server does not answer.", again: null, isNotSignedIn: false };
    useExercise.getState().unseen(behind);
    expect(await screen.findByText(/Not checked since/)).toBeVisible();
  });
});

describe("cases", () => {
  beforeEach(() => {
    forgetLooks();
    open("hydrophone-stage");
  });
  const opened = async (name: RegExp) => {
    const { user } = show(<CaseSwitch />);
    await user.click(screen.getByRole("button", { name: /^Case/ }));
    await user.click(await screen.findByRole("menuitem", { name }));
    return user;
  };

  it("are looked at by the switch", async () => {
    await opened(/Without load/);
    expect(await screen.findByRole("button", { name: "Case: Without load" })).toBeVisible();
  });

  it("are made by typing what is changed", async () => {
    onTheLine({ case: told("hydrophone-stage", "a case") });
    const user = await opened(/New case/);
    const before = documentNow().cases.length;
    await user.type(
      await screen.findByRole("textbox", { name: "A new case" }),
      "without R5{Enter}",
    );
    await waitFor(() => expect(documentNow().cases).toHaveLength(before + 1));
    expect(askedFor("case").at(-1)).toMatchObject({ text: "without R5" });
    useExercise.getState().undo();
    expect(documentNow().cases).toHaveLength(before);
  });

  it("that cannot be are said to be so, and nothing is lost", async () => {
    onTheLine({ case: told("hydrophone-stage", "no case") });
    const user = await opened(/New case/);
    const field = await screen.findByRole("textbox", { name: "A new case" });
    await user.type(field, "without R77{Enter}");
    expect(await screen.findByRole("alert")).toHaveTextContent(/no part called R77/i);
    expect(field).toHaveValue("without R77");
  });

  it("are renamed and removed, with an undo", async () => {
    const user = await opened(/Without load/);
    const count = documentNow().cases.length;
    await user.click(screen.getByRole("button", { name: "Case: Without load" }));
    await user.click(await screen.findByRole("menuitem", { name: /Rename/ }));
    const field = screen.getByRole("textbox", { name: "Name of the case" });
    await user.clear(field);
    await user.type(field, "Open output{Enter}");
    await user.click(await screen.findByRole("button", { name: "Case: Open output" }));
    await user.click(await screen.findByRole("menuitem", { name: /Remove/ }));
    expect(documentNow().cases).toHaveLength(count - 1);
    await user.click((await screen.findAllByRole("button", { name: "Undo" }))[0] as HTMLElement);
    expect(documentNow().cases).toHaveLength(count);
  });
});

describe("parameters", () => {
  beforeEach(() => {
    forgetLooks();
    open("battery-sense");
  });
  const opened = async () => {
    const { user } = show(<Parameters />);
    await user.click(screen.getByRole("button", { name: /Parameters/ }));
    return user;
  };

  it("are added with a name that is free", async () => {
    const user = await opened();
    await user.click(screen.getByRole("button", { name: "Parameter" }));
    await user.click(screen.getByRole("button", { name: "Parameter" }));
    expect(documentNow().parameters.map(({ name }) => name)).toEqual(["p_1", "p_2"]);
  });

  it("say what is wrong with a value, and keep it as it is typed", async () => {
    const user = await opened();
    await user.click(screen.getByRole("button", { name: "Parameter" }));
    const field = screen.getByRole("textbox", { name: "Value of p_1" });
    await user.clear(field);
    await user.type(field, "2 kOhm?");
    const [named] = documentNow().parameters;
    const look = { id: named?.id, echo: "", unit: "", problem: "“?” means nothing here" };
    useExercise
      .getState()
      .seen({ ...lookOf("battery-sense"), parameters: [look as never] }, documentNow(), null);
    expect(await screen.findByText(/means nothing here/)).toBeVisible();
    expect(field).toBeInvalid();
    expect(field).toHaveValue("2 kOhm?");
  });

  it("are removed, to be undone", async () => {
    const user = await opened();
    await user.click(screen.getByRole("button", { name: "Parameter" }));
    await user.click(screen.getByRole("button", { name: "Remove p_1" }));
    expect(documentNow().parameters).toEqual([]);
    useExercise.getState().undo();
    expect(documentNow().parameters).toHaveLength(1);
  });
});

vi.setConfig({ testTimeout: 60_000 });
