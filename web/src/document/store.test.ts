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
  schematic: { parts: [], wires: [], junctions: [], labels: [], notes: [], nodes: [] },
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

  it("keeps the numbers of nodes that join something or are spoken of", () => {
    const net = (name: string, pins: number, more = {}) => ({
      ...{ name, ground: false, named: false, wires: [], ...more },
      pins: Array.from({ length: pins }, (_, k) => [name, k]),
    });
    const nets = [net("0", 2, { ground: true }), net("out", 2, { named: true })];
    nets.push(net("n1", 2), net("n2", 1), net("n3", 1));
    const look = { nets, spoken: ["n3", "n7"] } as unknown as Evaluation;
    store().seen(look, document, null);
    const end = { id: "j", at: [0, 0] as [number, number] };
    store().draw((sheet) => ({ ...sheet, junctions: [end] }));
    const { nodes, junctions } = store().document.schematic;
    expect(nodes.map(({ name, pins }) => [name, pins.length])).toEqual([
      ["n1", 2],
      ["n3", 1],
      ["n7", 0], // gone, but spoken of: no other node shall be taken for it
    ]);
    expect(junctions).toEqual([end]);
    store().draw((sheet) => ({ ...sheet, junctions: [] }));
    expect(store().document.schematic.nodes).toBe(nodes);
    store().undo();
    store().undo();
    expect(store().document.schematic).toEqual(document.schematic);
    store().seen(look, document, "b1"); // of the drawing of a block
    store().draw((sheet) => ({ ...sheet, junctions: [end] }));
    expect(store().document.schematic.nodes).toEqual([]);
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
