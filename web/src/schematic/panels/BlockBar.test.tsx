// Inside a block: what it is called, the way out, and where its ports stand.
import { screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { Block } from "../../api/types";
import { useExercise } from "../../document/store";
import { documentNow, forgetLooks, open, show } from "../../tests/panel";
import { overTheNet, refusal } from "../../tests/server";
import { WithCatalogue } from "../editor/catalogue";
import { BlockBar } from "./BlockBar";

const PAD = {
  id: "b1",
  name: "Pad",
  purpose: "",
  parameters: [],
  schematic: {
    parts: [],
    wires: [],
    junctions: [],
    notes: [],
    labels: [
      { id: "l1", name: "in", at: [-6, 0] },
      { id: "l2", name: "out", at: [6, 0] },
      { id: "l3", name: "mid", at: [0, 0] },
    ],
  },
  ports: [
    { name: "in", at: [-6, 0] },
    { name: "out", at: [6, 0] },
  ],
} as unknown as Block;

const block = () => documentNow().blocks[0] as Block;

/** What is asked for on each side, when ports are to stand elsewhere. */
let asked: Record<string, unknown>[] = [];

function inside() {
  open("battery-sense", (of) => {
    of.document.blocks = [PAD];
  });
  useExercise.getState().enter("b1");
  return show(
    <WithCatalogue>
      <BlockBar />
    </WithCatalogue>,
  );
}

beforeEach(() => {
  forgetLooks();
  asked = [];
  overTheNet((method, path, body) => {
    if (method !== "POST" || path !== "/api/block/ports") return undefined;
    asked.push(body as Record<string, unknown>);
    const ports = [
      { name: "in", at: [0, -4] },
      { name: "out", at: [6, 0] },
    ];
    return {
      status: 200,
      answer: { ports, kind: { key: "block b1", pins: [], body: [0, 0, 0, 0] } },
    };
  });
});

describe("the bar of a block", () => {
  it("names it, and leads back", async () => {
    const { user } = inside();
    const name = await screen.findByRole("textbox", { name: "Name of the block" });
    await user.type(name, " of 6 dB");
    expect(block().name).toBe("Pad of 6 dB");
    await user.click(screen.getByRole("button", { name: "Back" }));
    expect(useExercise.getState().inside).toBeNull();
    expect(screen.queryByRole("region", { name: "Inside a block" })).toBeNull();
  });

  it("puts a port on another side, as the server lays it", async () => {
    const { user } = inside();
    expect(await screen.findByLabelText("Side of in")).toHaveValue("left");
    await user.selectOptions(screen.getByLabelText("Side of in"), "top");
    await waitFor(() => expect(screen.getByLabelText("Side of in")).toHaveValue("top"));
    expect(asked[0]).toMatchObject({ left: [], right: ["out"], top: ["in"], bottom: [] });
    useExercise.getState().undo();
    await waitFor(() => expect(screen.getByLabelText("Side of in")).toHaveValue("left"));
  });

  it("makes a port of a name inside that is none yet", async () => {
    const { user } = inside();
    await user.click(await screen.findByRole("button", { name: "Make mid a port" }));
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(asked[0]).toMatchObject({ left: ["in"], right: ["out", "mid"] });
  });

  it("says why a port cannot stand there, and leaves it", async () => {
    const { user } = inside();
    overTheNet(() => refusal(422, "There is no room for it."));
    await user.selectOptions(await screen.findByLabelText("Side of out"), "left");
    expect(await screen.findByText("There is no room for it.")).toBeVisible();
    expect(screen.getByLabelText("Side of out")).toHaveValue("right");
  });
});
