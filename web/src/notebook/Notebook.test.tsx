// The notebook: what it lists, what it says where there is nothing or nobody answers, and what is undone.
import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Card, Listed } from "../api/types";
import { show } from "../tests/panel";
import { overTheNet, type Told } from "../tests/server";
import { Notebook } from "./Notebook";

const NONE: Listed = { total: 0, first: 0, cards: [] };
const card = (id: number, title: string, to: Partial<Card> = {}): Card =>
  ({
    id,
    title,
    number: `${id}`,
    author: "",
    group: "",
    purpose: `of ${title}`,
    saved: "2026-11-01T09:00:00Z",
    picture: null,
    is_current: true,
    ...to,
  }) as Card;

const asked: string[] = [];

/** A server that lists these, and takes what else is asked. */
function lists(
  cards: Card[],
  deleted: Listed = NONE,
  other: Told | Error = { status: 204, answer: null },
) {
  asked.length = 0;
  overTheNet((method, path) => {
    if (path === "/api/me") return { status: 200, answer: { needed: false, name: null } };
    if (path.startsWith("/api/catalogue")) return undefined;
    asked.push(`${method} ${path}`);
    if (method !== "GET") return other;
    const { searchParams } = new URL(path, "http://bench.local");
    if (searchParams.has("deleted")) return { status: 200, answer: deleted };
    const find = searchParams.get("find") ?? "";
    const found = cards.filter(({ title }) => title.toLowerCase().includes(find.toLowerCase()));
    return { status: 200, answer: { total: found.length, first: 0, cards: found } };
  });
}

describe("the notebook", () => {
  it("says how to begin where there is nothing in it", async () => {
    lists([]);
    show(<Notebook />);
    expect(await screen.findByText(/Nothing in the notebook/)).toBeVisible();
  });

  it("says that nobody answers, and asks again", async () => {
    overTheNet(() => new TypeError("no network"));
    const { user } = show(<Notebook />);
    expect(await screen.findByRole("alert")).toHaveTextContent("does not answer");
    lists([card(1, "Tide gauge")]);
    await user.click(screen.getByRole("button", { name: "Try again" }));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  });

  it("is found in by words, and says where nothing has them", async () => {
    lists([card(1, "Tide gauge"), card(2, "Lamp")]);
    const { user } = show(<Notebook />);
    await user.type(screen.getByRole("searchbox", { name: "Find an exercise" }), "zener");
    expect(await screen.findByText(/No exercise has these words/)).toBeVisible();
  });

  it("asks in the order that is chosen", async () => {
    lists([card(1, "Tide gauge")]);
    const { user } = show(<Notebook />);
    await user.selectOptions(await screen.findByRole("combobox", { name: /Order/ }), "title");
    await waitFor(() => expect(asked.some((path) => path.includes("order=title"))).toBe(true));
  });

  it("brings back what was deleted", async () => {
    lists([], { total: 1, first: 0, cards: [card(9, "Old lamp")] });
    const { user } = show(<Notebook />);
    await user.click(await screen.findByText(/Deleted in the last 30 days/));
    await user.click(screen.getByRole("button", { name: "Restore Old lamp" }));
    await waitFor(() => expect(asked).toContain("POST /api/exercises/9/restore"));
  });
});
