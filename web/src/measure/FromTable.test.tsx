// A table from elsewhere: what was understood, what is wrong with it, and keeping it as a record.
import { screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { documentNow, open, show } from "../tests/panel";
import { overTheNet, refusal, table } from "../tests/server";
import { FromTable } from "./FromTable";

const closed = vi.fn();

function shown() {
  const put = show(<FromTable open onClose={closed} />);
  const paste = async (text: string) => {
    await put.user.click(screen.getByRole("textbox", { name: "Table" }));
    await put.user.paste(text);
    await put.user.click(screen.getByRole("button", { name: "Read it" }));
  };
  return { ...put, paste };
}

beforeEach(() => {
  closed.mockClear();
  open("anti-alias-ladder");
  overTheNet((_, path) => (path === "/api/table" ? table("table") : undefined));
});

describe("a table", () => {
  it("is refused with the line that is wrong, and can be another", async () => {
    overTheNet((_, path) => (path === "/api/table" ? table("table with a fault") : undefined));
    const { paste, user } = shown();
    await paste("t [s],CH1\n0,1\n1,oops\n2,3\n");
    expect(await screen.findByRole("alert")).toHaveTextContent("Line 3");
    await user.click(screen.getByRole("button", { name: "Another table" }));
    expect(screen.getByRole("textbox", { name: "Table" })).toBeVisible();
  });

  it("asks what a column is of before it is kept", async () => {
    const { paste } = shown();
    await paste("t [s],CH1\n0,1\n1,2\n2,3\n");
    expect(await screen.findByRole("button", { name: "Keep as a record" })).toBeDisabled();
  });

  it("becomes a record of the exercise once it is understood", async () => {
    const understood = table("table");
    (understood.answer as { problem: string | null }).problem = null;
    overTheNet((_, path) => (path === "/api/table" ? understood : undefined));
    const { paste, user } = shown();
    const before = documentNow().records.length;
    await paste("t [s],CH1\n0,1\n1,2\n2,3\n");
    await user.click(await screen.findByRole("button", { name: "Keep as a record" }));
    expect(documentNow().records).toHaveLength(before + 1);
    expect(closed).toHaveBeenCalledOnce();
  });

  it.each([
    [refusal(413, "The table has more than 64 MB."), "more than 64 MB"],
    [new TypeError("no network"), "does not answer"],
  ])("says why it was not read", async (answer, sentence) => {
    overTheNet((_, path) => (path === "/api/table" ? answer : undefined));
    await shown().paste("t [s],CH1\n0,1\n");
    expect(await screen.findByText(new RegExp(sentence))).toBeVisible();
    expect(documentNow().records).toHaveLength(1);
  });
});
