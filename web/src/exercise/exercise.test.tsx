// Around an exercise: earlier versions, a clash of two pages, what it says of itself, commands by name.
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { useExercise } from "../document/store";
import { documentNow, forgetLooks, open, show } from "../tests/panel";
import { onTheLine, opened, overTheNet, refusal, told } from "../tests/server";
import { ClashNote } from "./ClashNote";
import { Details } from "./Details";
import { Palette } from "./Palette";
import { openPanel } from "./panels";
import { Revisions } from "./Revisions";

const REVISIONS = [
  { number: 3, saved: "2026-11-02T10:00:00Z", restores: 1, changed: "" },
  { number: 2, saved: "2026-11-02T09:30:00Z", restores: null, changed: "R1: 1M → 2M" },
  { number: 1, saved: "2026-11-01T09:00:00Z", restores: null, changed: "" },
];

beforeEach(() => {
  forgetLooks();
  open("battery-sense", (of) => {
    of.revision = 3;
  });
});

describe("earlier versions", () => {
  const earlier = opened<{ document: { title: string } }>("battery-sense");
  beforeEach(() => {
    overTheNet((_, path) => {
      if (path.endsWith("/revisions")) return { status: 200, answer: REVISIONS };
      if (path.endsWith("/revisions/2"))
        return {
          status: 200,
          answer: { ...earlier, document: { ...earlier.document, title: "Before" } },
        };
      return undefined;
    });
    onTheLine({ look: told("battery-sense", "look") });
  });

  it("are listed by day, by what was changed", async () => {
    show(<Revisions open onClose={() => undefined} />);
    expect(await screen.findByRole("button", { name: /R1: 1M → 2M/ })).toBeEnabled();
    expect(screen.getByRole("button", { name: /Back to version 1.*now/ })).toBeDisabled();
    expect(screen.getByRole("button", { name: /The beginning/ })).toBeEnabled();
    expect(screen.getAllByRole("region", { name: /2026/ })).toHaveLength(2);
  });

  it("are looked at before one goes back, which is an edit to be undone", async () => {
    const { user } = show(<Revisions open onClose={() => undefined} />);
    const title = documentNow().title;
    await user.click(await screen.findByRole("button", { name: /R1: 1M → 2M/ }));
    await user.click(await screen.findByRole("button", { name: "Go back to this version" }));
    expect(documentNow().title).toBe("Before");
    useExercise.getState().undo();
    expect(documentNow().title).toBe(title);
  });

  it("that cannot be had are said not to be", async () => {
    overTheNet((_, path) =>
      path.includes("/revisions") ? refusal(503, "The disk of the server is full.") : undefined,
    );
    show(<Revisions open onClose={() => undefined} />);
    expect(await screen.findByText("The disk of the server is full.")).toBeVisible();
  });
});

describe("a clash", () => {
  const clashed = () =>
    useExercise.getState().setSaving({ state: "clash", sentence: "Changed elsewhere.", latest: 9 });

  it("is said with three ways out of it", () => {
    clashed();
    show(<ClashNote />);
    expect(screen.getByRole("alert")).toHaveTextContent("Changed elsewhere.");
    expect(screen.getAllByRole("button", { name: /copy|top|other/ })).toHaveLength(3);
  });

  it("ends by saving on top of the other", async () => {
    clashed();
    const { user } = show(<ClashNote />);
    await user.click(screen.getByRole("button", { name: "Save mine on top" }));
    expect([useExercise.getState().revision, useExercise.getState().saving.state]).toEqual([
      9,
      "waiting",
    ]);
  });

  it("ends by taking the other, with one's own a step back", async () => {
    const theirs = opened<{ revision: number; document: { title: string } }>("battery-sense");
    theirs.document.title = "Theirs";
    theirs.revision = 9;
    overTheNet((method, path) =>
      method === "GET" && /exercises\/\d+$/.test(path)
        ? { status: 200, answer: theirs }
        : undefined,
    );
    const mine = documentNow().title;
    clashed();
    const { user } = show(<ClashNote />);
    await user.click(screen.getByRole("button", { name: "Take the other" }));
    await waitFor(() => expect(documentNow().title).toBe("Theirs"));
    useExercise.getState().undo();
    expect(documentNow().title).toBe(mine);
  });

  it("ends by keeping one's own as a copy", async () => {
    const sent: { document: { title: string } }[] = [];
    overTheNet((method, path, body) => {
      if (method !== "POST" || path !== "/api/exercises") return undefined;
      sent.push(body as never);
      return { status: 201, answer: { ...opened<object>("battery-sense"), id: 77 } };
    });
    clashed();
    const { user } = show(<ClashNote />);
    await user.click(screen.getByRole("button", { name: "Keep mine as a copy" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.document.title).toMatch(/my changes/);
    expect(location.pathname).toBe("/exercises/77");
  });
});

describe("what an exercise says of itself", () => {
  it("is written in fields, each an edit of its own", async () => {
    const { user } = show(<Details open onClose={() => undefined} />);
    const author = documentNow().author;
    await user.clear(screen.getByRole("textbox", { name: "Author" }));
    await user.type(screen.getByRole("textbox", { name: "Author" }), "Group B");
    await user.clear(screen.getByRole("textbox", { name: "Exercise number" }));
    await user.type(screen.getByRole("textbox", { name: "Exercise number" }), "7");
    expect(documentNow()).toMatchObject({ author: "Group B", number: "7" });
    useExercise.getState().undo();
    expect(documentNow().author).toBe("Group B");
    useExercise.getState().undo();
    expect(documentNow().author).toBe(author);
  });
});

describe("commands", () => {
  it("are found by a word of their name, and say where there is none", async () => {
    const { user } = show(<Palette />);
    openPanel("commands");
    const field = await screen.findByRole("combobox");
    await user.type(field, "undo");
    expect((await screen.findAllByRole("option"))[0]).toHaveTextContent(/undo/i);
    await user.clear(field);
    await user.type(field, "zzzz");
    expect(await screen.findByText(/No command is called that/)).toBeVisible();
    await user.keyboard("{Escape}");
    await waitFor(() => expect(screen.queryByRole("combobox")).toBeNull());
  });
});
