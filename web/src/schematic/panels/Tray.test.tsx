// What is taken in hand from beside the sheet, and which figures stand on it.
import { act, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { useExercise } from "../../document/store";
import { documentNow, forgetLooks, lookOf, open, show } from "../../tests/panel";
import { askedFor, onTheLine, refusal } from "../../tests/server";
import { WithCatalogue } from "../editor/catalogue";
import { FiguresFollow, useFigures } from "../editor/figures";
import { useEditorStore } from "../editor/tools";
import { provideSheet } from "../model/openSheet";
import { FiguresBar, ZoomButtons } from "./Layers";
import { Tray } from "./Tray";

const tool = () => useEditorStore.getState().tool;
const placed = () => {
  const held = tool();
  return held.kind === "placing" ? held.placement.kind : null;
};

beforeEach(() => {
  forgetLooks();
  open("battery-sense");
});

describe("the tray", () => {
  const tray = async () => {
    const put = show(
      <WithCatalogue>
        <Tray />
      </WithCatalogue>,
    );
    await screen.findByRole("button", { name: "Place resistor" });
    return put;
  };

  it("puts a part in the hand, and shows which", async () => {
    const { user } = await tray();
    const button = screen.getByRole("button", { name: "Place capacitor" });
    expect(button).toHaveAttribute("aria-pressed", "false");
    await user.click(button);
    expect(placed()).toBe("capacitor");
    expect(button).toHaveAttribute("aria-pressed", "true");
  });

  it.each([
    ["Draw a wire", "wiring"],
    ["Name a node", "naming"],
    ["Write a note", "noting"],
  ])("takes up what else is done: %s", async (name, kind) => {
    const { user } = await tray();
    await user.click(screen.getByRole("button", { name }));
    expect(tool().kind).toBe(kind);
    expect(screen.getByRole("button", { name })).toHaveAttribute("aria-pressed", "true");
  });

  it("begins to be typed to, with no card in the way", async () => {
    const { user } = await tray();
    useEditorStore.setState({ card: { id: documentNow().schematic.parts[0]?.id ?? "" } as never });
    await user.click(screen.getByRole("button", { name: /^Type to place/ }));
    expect(useEditorStore.getState()).toMatchObject({ typed: "", card: null });
  });

  it("finds a part by a word of what it is for, and Enter takes the first", async () => {
    const { user } = await tray();
    await user.click(screen.getByRole("button", { name: "All parts" }));
    const field = screen.getByRole("searchbox", { name: "Find a part" });
    await user.type(field, "transistor");
    const parts = within(screen.getByRole("dialog")).getAllByRole("button");
    expect(parts.length).toBeGreaterThan(2);
    await user.type(field, " npn{Enter}");
    expect(placed()).toBe("npn");
    expect(screen.queryByRole("searchbox")).toBeNull();
  });

  it("says where no part is called that, and takes none", async () => {
    const { user } = await tray();
    await user.click(screen.getByRole("button", { name: "All parts" }));
    await user.type(screen.getByRole("searchbox", { name: "Find a part" }), "flux gate{Enter}");
    expect(screen.getByText("No part is called that.")).toBeVisible();
    expect(tool().kind).toBe("idle");
  });
});

describe("how close the sheet is looked at", () => {
  it.each([
    ["Zoom in", [1.25]],
    ["Zoom out", [0.8]],
    ["Fit the drawing", []],
  ])("is by its buttons: %s", async (name, by) => {
    const wishes = { zoom: vi.fn(), fit: vi.fn() };
    provideSheet({ ...wishes, picture: () => null });
    const { user } = show(<ZoomButtons />);
    await user.click(screen.getByRole("button", { name }));
    expect(wishes.zoom.mock.calls.flat()).toEqual(by);
    expect(wishes.fit).toHaveBeenCalledTimes(by.length ? 0 : 1);
  });
});

describe("figures on the drawing", () => {
  it("are switched one by one", async () => {
    const { user } = show(<FiguresBar />);
    const powers = screen.getByRole("button", { name: "Powers" });
    const before = useEditorStore.getState().layers;
    await user.click(powers);
    expect(useEditorStore.getState().layers).toEqual({ ...before, power: !before.power });
    expect(powers).toHaveAttribute("aria-pressed", String(!before.power));
  });

  it("are of the operating point, or of a run that has some", async () => {
    open("time-signal-filter");
    const { user } = show(<FiguresBar />);
    await user.click(screen.getByRole("button", { name: "Show phasors" }));
    const run = documentNow().runs.find(({ analysis }) => analysis === "phasor");
    expect(useFigures.getState().of?.run).toBe(run?.id);
  });

  it("follow the circuit, and are said to be missing where the run has none, with the reason", async () => {
    const quantities = lookOf("time-signal-filter").quantities.slice(0, 2);
    open("time-signal-filter");
    onTheLine({ figures: { status: 200, answer: { quantities, at: "1 kHz" } } });
    const { user } = show(
      <>
        <FiguresBar />
        <FiguresFollow />
      </>,
    );
    await user.click(screen.getByRole("button", { name: "Show phasors" }));
    await waitFor(() => expect(useFigures.getState().quantities).toEqual(quantities));
    expect(askedFor("figures").at(-1)).toMatchObject({ run: useFigures.getState().of?.run });
    expect(screen.getByRole("status", { name: "Figures are at" })).toHaveTextContent("1 kHz");
    onTheLine({ figures: refusal(422, "There is no ground.") });
    act(() =>
      useExercise.getState().edit((draft) => {
        draft.schematic.parts.pop();
      }),
    );
    expect(await screen.findByText(/No figures of the run: There is no ground\./)).toBeVisible();
    expect(useFigures.getState().quantities).toBeNull();
  });
});
