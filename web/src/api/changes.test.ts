// Changes, carried out by another program's hand on the value before, make the value after.
import { applyPatches, enablePatches, produce } from "immer";
import { describe, expect, it } from "vitest";
import { changesBetween } from "./changes";

enablePatches();

const applied = (before: object, changes: ReturnType<typeof changesBetween>) =>
  applyPatches(
    before,
    changes.map(({ op, path, value }) => ({
      op,
      value,
      path: path
        .split("/")
        .slice(1)
        .map((step) => step.replace(/~1/g, "/").replace(/~0/g, "~"))
        .map((step) => (/^\d+$/.test(step) ? Number(step) : step)),
    })),
  );

interface Sheet {
  title: string;
  parts: { id: string; at: [number, number]; values: Record<string, string> }[];
}

const sheet: Sheet = {
  title: "one",
  parts: Array.from({ length: 9 }, (_, k) => ({ id: `p${k}`, at: [k, 0], values: { a: "1k" } })),
};

describe("changes between documents", () => {
  const put = { id: "q", at: [0, 0] as [number, number], values: {} };
  /** Does something to one part, if there still is one. */
  const part = (at: number, edit: (part: Sheet["parts"][0]) => void) => (draft: Sheet) => {
    const found = draft.parts[at];
    if (found) edit(found);
  };
  const edits: [string, (draft: Sheet) => void][] = [
    ["a title", (draft) => void Object.assign(draft, { title: "two" })],
    ["a value", part(4, ({ values }) => Object.assign(values, { a: "2k" }))],
    ["a value more", part(4, ({ values }) => Object.assign(values, { "b/~": "" }))],
    ["a value less", part(4, ({ values }) => Reflect.deleteProperty(values, "a"))],
    ["a part moved", part(8, (found) => Object.assign(found, { at: [3, 3] }))],
    ["a part more", ({ parts }) => void parts.splice(2, 0, put)],
    ["parts less", ({ parts }) => void parts.splice(3, 4)],
    ["one for three", ({ parts }) => void parts.splice(1, 3, put)],
    ["the other way round", ({ parts }) => void parts.reverse()],
    ["none left", ({ parts }) => void parts.splice(0)],
  ];

  it.each(edits)("make the one after of the one before: %s", (_, edit) => {
    const after = produce(sheet, edit);
    expect(applied(sheet, changesBetween(sheet, after))).toEqual(after);
    expect(applied(after, changesBetween(after, sheet))).toEqual(sheet);
    for (const [, another] of edits) {
      const both = produce(after, another);
      expect(applied(sheet, changesBetween(sheet, both))).toEqual(both);
    }
  });

  it("are as few as what was edited", () => {
    const after = produce(sheet, (draft) => {
      (draft.parts[4] as Sheet["parts"][0]).values.a = "2k";
    });
    expect(changesBetween(sheet, after)).toEqual([
      { op: "replace", path: "/parts/4/values/a", value: "2k" },
    ]);
    expect(changesBetween(sheet, sheet)).toEqual([]);
  });
});
