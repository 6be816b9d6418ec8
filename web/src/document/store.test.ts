// Undo, redo and what they do to a document that is being saved.
import { beforeEach, describe, expect, it } from "vitest";
import type { Evaluation, Exercise, Opened } from "../api/types";
import { useExercise } from "./store";

const document: Exercise = {
  format: "lucid-bench-exercise",
  version: 3,
  title: "one",
  author: "",
  group: "",
  number: "",
  purpose: "",
  schematic: { parts: [], wires: [], junctions: [], labels: [], notes: [] },
  parameters: [],
  blocks: [],
  cases: [],
  hand: [],
  digits: 4,
  runs: [],
  records: [],
  measurements: [],
  ledger: [],
  causes: [],
  build: {
    seed: 1,
    distribution: "uniform",
    ideal: false,
    temperature: 23,
    fixed: [],
    faults: [],
    sealed: "",
    digest: "",
  },
};
const opened: Opened = { id: 7, revision: 4, restores: null, saved: "2026-01-01", document };
const store = useExercise.getState;
const title = (text: string, group?: string) =>
  store().edit((draft) => {
    draft.title = text;
  }, group);

describe("the open exercise", () => {
  beforeEach(() => store().open(opened));

  it("undoes and redoes edit by edit", () => {
    title("two");
    title("three");
    store().undo();
    expect(store().document.title).toBe("two");
    store().undo();
    expect(store().document).toBe(document);
    store().undo();
    expect(store().document).toBe(document);
    store().redo();
    store().redo();
    expect(store().document.title).toBe("three");
  });

  it("names the nodes that are spoken of by number before the drawing is changed", () => {
    const look = { unnamed: [{ name: "n2", at: [3, 4] }] } as unknown as Evaluation;
    title("two");
    store().seen(look, store().document);
    const end = { id: "j", at: [0, 0] as [number, number] };
    store().draw((sheet) => ({ ...sheet, junctions: [end] }));
    const { labels, junctions } = store().document.schematic;
    expect(labels.map(({ name, at }) => [name, at])).toEqual([["n2", [3, 4]]]);
    expect(junctions).toEqual([end]);
    store().undo(); // both in one step
    expect(store().document.schematic).toEqual(document.schematic);
    // A look at another document says nothing of this one.
    store().seen(look, document);
    store().draw((sheet) => ({ ...sheet, junctions: [end] }));
    expect(store().document.schematic.labels).toEqual([]);
  });

  it("undoes what is typed in one go in one step", () => {
    for (const text of ["t", "tw", "two"]) title(text, "title");
    store().endGroup();
    for (const text of ["two!", "two!!"]) title(text, "title");
    store().undo();
    expect(store().document.title).toBe("two");
    store().undo();
    expect(store().document.title).toBe("one");
  });

  it("forgets what was undone when something else is done", () => {
    title("two");
    store().undo();
    title("other");
    store().redo();
    expect(store().document.title).toBe("other");
  });

  it("makes no step of an edit that changes nothing", () => {
    title("one");
    store().draw((schematic) => schematic);
    expect(store().past).toEqual([]);
  });

  it("goes back past the opening, says what it restores, and comes forward again", () => {
    const earlier = { ...document, title: "zero" };
    store().goBack(earlier, 3, 3);
    expect(store()).toMatchObject({ document: earlier, restores: 3, floor: 3 });
    store().redo();
    expect(store()).toMatchObject({ document, restores: null });
  });

  it("keeps mine one undo away when the other's is taken", () => {
    title("mine");
    const theirs = { ...document, title: "theirs" };
    store().adopt({ ...opened, revision: 9, document: theirs });
    expect(store()).toMatchObject({ revision: 9, saved: theirs });
    store().undo();
    expect(store().document.title).toBe("mine");
  });
});
