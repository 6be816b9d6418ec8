// The head of an exercise: its name, whether it is kept, and what is done to it as a whole.
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { type Saving, useExercise } from "../document/store";
import { useEditorStore } from "../schematic/editor/tools";
import { documentNow, forgetLooks, open, show } from "../tests/panel";
import { opened, overTheNet, refusal } from "../tests/server";
import { usePreferences } from "../ui/theme";
import { Header } from "./Header";
import { usePanels } from "./panels";

beforeEach(() => {
  forgetLooks();
  open("battery-sense");
});

const menu = async (item: string | RegExp) => {
  const put = show(<Header />);
  await put.user.click(screen.getByRole("button", { name: "More" }));
  await put.user.click(await screen.findByRole("menuitem", { name: item }));
  return put;
};

describe("the head of an exercise", () => {
  it("takes another title as one edit, and the window is called so", async () => {
    const { user } = show(<Header />);
    const field = screen.getByRole("textbox", { name: "Title" });
    const before = documentNow().title;
    await user.type(field, " at sea");
    await user.tab();
    expect(documentNow().title).toBe(`${before} at sea`);
    expect(document.title).toMatch(/^Battery sense at sea/);
    useExercise.getState().undo();
    expect(documentNow().title).toBe(before);
  });

  it("offers a step back once there is one, and forth once it is gone", async () => {
    const { user } = show(<Header />);
    const [undo, redo] = ["Undo", "Redo"].map((name) => screen.getByRole("button", { name }));
    expect(undo).toBeDisabled();
    await user.type(screen.getByRole("textbox", { name: "Title" }), "!");
    expect(undo).toBeEnabled();
    expect(redo).toBeDisabled();
    await user.click(undo as HTMLElement);
    expect(documentNow().title).toBe("Battery sense");
    expect(redo).toBeEnabled();
    await user.click(redo as HTMLElement);
    expect(documentNow().title).toBe("Battery sense!");
  });

  it.each([
    [{ state: "saved" }, "Saved"],
    [{ state: "waiting" }, "Saving …"],
    [{ state: "offline" }, "does not answer"],
    [{ state: "clash" }, "changed elsewhere"],
    [{ state: "refused", sentence: "It is larger than 5 MB." }, "It is larger than 5 MB."],
  ])("says whether it is kept: %o", (saving, says) => {
    useExercise.setState({ saving: saving as Saving });
    show(<Header />);
    expect(screen.getByRole("status", { name: "Saving" })).toHaveTextContent(says);
  });

  it("is light or dark at a press", async () => {
    const { user } = show(<Header />);
    await user.click(screen.getByRole("button", { name: "Dark theme" }));
    expect(usePreferences.getState().theme).toBe("dark");
    await user.click(screen.getByRole("button", { name: "Light theme" }));
    expect(usePreferences.getState().theme).toBe("light");
  });

  it.each([
    ["Earlier versions", "revisions"],
    ["Ctrl K: all commands", "commands"],
  ])("opens what is wanted: %s", async (name, panel) => {
    const { user } = show(<Header />);
    await user.click(screen.getByRole("button", { name }));
    expect(usePanels.getState().open).toBe(panel);
  });
});

describe("its menu", () => {
  it("turns the symbols to the other standard and back", async () => {
    const { user } = await menu("US symbols");
    expect(usePreferences.getState().symbols).toBe("ieee");
    await user.click(screen.getByRole("button", { name: "More" }));
    await user.click(await screen.findByRole("menuitem", { name: "IEC symbols" }));
    expect(usePreferences.getState().symbols).toBe("iec");
  });

  it("shows the title block or hides it", async () => {
    const before = useEditorStore.getState().layers.title;
    await menu(/title block$/);
    expect(useEditorStore.getState().layers.title).toBe(!before);
  });

  it("goes to a copy of it", async () => {
    const copied: string[] = [];
    overTheNet((method, path) => {
      if (method !== "POST" || !path.endsWith("/duplicate")) return undefined;
      copied.push(path);
      return { status: 201, answer: { ...opened<object>("battery-sense"), id: 77 } };
    });
    useExercise.setState({ saving: { state: "saved" } as Saving });
    await menu("Duplicate the exercise");
    await waitFor(() => expect(location.pathname).toMatch(/^\/exercises\/77/));
    expect(copied).toHaveLength(1);
  });

  it("says why there is no copy, and stays", async () => {
    const before = location.pathname;
    overTheNet((method) => (method === "POST" ? refusal(409, "The notebook is full.") : undefined));
    await menu("Duplicate the exercise");
    expect(await screen.findByText("The notebook is full.")).toBeVisible();
    expect(location.pathname).toBe(before);
  });
});
