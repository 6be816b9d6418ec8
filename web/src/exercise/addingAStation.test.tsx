// The example of docs/adding-a-station.md, put where it says and used as written.
import { mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { dirname, resolve } from "node:path";
import { screen } from "@testing-library/react";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { useExercise } from "../document/store";
import { documentNow, open, show } from "../tests/panel";

const PAGE = readFileSync(
  resolve(import.meta.dirname, "../../../docs/adding-a-station.md"),
  "utf8",
);
const [, place = "", example = ""] =
  /`web\/src\/([\w/]+\.tsx)`:\n\n```tsx\n(.*?)```/s.exec(PAGE) ?? [];
const file = resolve(import.meta.dirname, "..", place);

describe("the station that the page on adding one shows", () => {
  beforeAll(() => {
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, example);
  });
  afterAll(() => rmSync(dirname(file), { recursive: true }));

  it("shows the open exercise and edits it, as one step to be undone", async () => {
    const { Remarks } = await import(/* @vite-ignore */ file);
    open("battery-sense");
    const before = documentNow().purpose;
    const { user } = show(<Remarks />);
    const field = screen.getByRole("textbox", { name: "Purpose" });
    expect(field).toHaveValue(before);
    await user.type(field, " And why?");
    expect(documentNow().purpose).toBe(`${before} And why?`);
    useExercise.getState().undo();
    expect(documentNow().purpose).toBe(before);
  });
});
