// What is edited is kept: in pauses, through a server that is away, through a clash, through an older page.
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Exercise, Opened } from "../api/types";

// The page's surroundings, as far as saving touches them; the server answers as told below.
const page = vi.hoisted(() => {
  const kept = new Map<string, string>();
  const storage = {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, text: string) => kept.set(key, text),
    removeItem: (key: string) => kept.delete(key),
  };
  const Plain = globalThis.Request;
  class AtHome extends Plain {
    constructor(input: RequestInfo | URL, init?: RequestInit) {
      super(typeof input === "string" ? new URL(input, "http://bench.local") : input, init);
    }
  }
  const window = Object.assign(new EventTarget(), {});
  Object.assign(globalThis, { window, localStorage: storage, Request: AtHome });
  Object.assign(globalThis, { document: { cookie: "" } });
  return { kept, window };
});

import { keepSaving, saveOnTop, takeUpDraft } from "./saving";
import { useExercise } from "./store";

const document = {
  format: "lucid-bench-exercise",
  version: 3,
  title: "one",
  schematic: { parts: [], wires: [], junctions: [], labels: [], notes: [] },
  blocks: [],
} as unknown as Exercise;
const opened: Opened = { id: 7, revision: 4, restores: null, saved: "2026-01-01", document };
const store = useExercise.getState;
const title = (text: string) =>
  store().edit((draft) => {
    draft.title = text;
  });

interface Put {
  based_on: number;
  document: Exercise;
}

let puts: Put[] = [];
let answer: (put: Put) => Response | Error;
const said = (status: number, body: object) =>
  new Response(JSON.stringify(body), {
    status,
    headers: { "Content-Type": "application/json" },
  });
const accepted = ({ based_on }: Put) => said(200, { revision: based_on + 1, saved: "now" });
let stop = () => {};

beforeEach(() => {
  vi.useFakeTimers();
  puts = [];
  answer = accepted;
  page.kept.clear();
  vi.stubGlobal("fetch", async (request: Request) => {
    if (request.url.endsWith("/api/import")) {
      const { text } = (await request.json()) as { text: string };
      const old = JSON.parse(text);
      return said(200, { document: { ...document, title: old.title }, network: null, notes: [] });
    }
    const put = (await request.json()) as Put;
    puts.push(put);
    const told = answer(put);
    if (told instanceof Error) throw told;
    return told;
  });
  store().open(opened);
  stop = keepSaving();
});
afterEach(() => {
  stop();
  store().close();
  vi.useRealTimers();
});
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);

describe("saving", () => {
  it("saves when the hand rests, each time on the revision before", async () => {
    for (const text of ["t", "tw", "two"]) title(text);
    expect(store().saving.state).toBe("waiting");
    await pass(500);
    title("three");
    await pass(500);
    expect(puts.map((put) => [put.based_on, put.document.title])).toEqual([
      [4, "two"],
      [5, "three"],
    ]);
    expect([store().saving.state, store().revision]).toEqual(["saved", 6]);
  });

  it("goes on while the server is away, and keeps a draft until it is back", async () => {
    answer = () => new TypeError("no network");
    title("away");
    await pass(1_500);
    expect(store().saving.state).toBe("offline");
    expect(page.kept.get("lucid-bench.draft.7")).toContain("away");
    title("further away");
    answer = accepted;
    await pass(4_000);
    expect(puts.at(-1)).toMatchObject({ based_on: 4, document: { title: "further away" } });
    expect([store().saving.state, page.kept.size]).toEqual(["saved", 0]);
  });

  it("is over where what was saved meanwhile is undone and done again", async () => {
    answer = (put) => {
      store().undo();
      return accepted(put);
    };
    title("two");
    await pass(500);
    store().redo();
    await pass(2_000);
    expect([store().saving.state, store().revision, puts.length]).toEqual(["saved", 5, 1]);
  });

  it("overwrites nothing that was saved elsewhere until it is told to", async () => {
    answer = () => said(409, { title: "Changed", status: 409, detail: "changed", latest: 9 });
    title("mine");
    await pass(600);
    expect(store().saving).toMatchObject({ state: "clash", latest: 9 });
    title("mine still");
    await pass(5_000);
    expect(puts).toHaveLength(1);
    answer = accepted;
    saveOnTop(9);
    await pass(600);
    expect(puts.at(-1)).toMatchObject({ based_on: 9, document: { title: "mine still" } });
    expect(store().saving.state).toBe("saved");
  });

  it("says a refusal, and tries no more until something is edited", async () => {
    answer = () => said(422, { title: "No", status: 422, detail: "too long", type: "" });
    title("x");
    await pass(6_000);
    expect(store().saving).toEqual({ state: "refused", sentence: "too long" });
    expect(puts).toHaveLength(1);
    answer = accepted;
    title("y");
    await pass(600);
    expect(store().saving.state).toBe("saved");
  });

  it("takes up what a closed page could not save, of an older form too", async () => {
    const draft = (found: object) =>
      page.kept.set("lucid-bench.draft.7", JSON.stringify({ basedOn: 3, document: found }));
    draft({ ...document, title: "left behind" });
    await takeUpDraft(opened);
    expect([store().document.title, store().revision]).toEqual(["left behind", 3]);
    store().open(opened);
    draft({ version: 1, title: "of version 1", bench: [] });
    await takeUpDraft(opened);
    expect([store().document.title, store().document.version]).toEqual(["of version 1", 3]);
    store().open(opened);
    draft(document); // nothing in it that is not saved
    await takeUpDraft(opened);
    expect([store().document, page.kept.size]).toEqual([document, 0]);
  });
});
