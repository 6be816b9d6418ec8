// Whatever comes and goes, a long list is drawn whole and in its order, and only what changed anew.
import { describe, expect, it } from "vitest";
import { type Groups, regrouped } from "./groups";

interface Item {
  id: string;
  value: number;
}

const items = (count: number): Item[] =>
  Array.from({ length: count }, (_, k) => ({ id: `i${k}`, value: k }));
const listed = ({ groups }: Groups<Item>) => groups.flatMap((group) => group.items);
const fresh = (now: Groups<Item>, before: Groups<Item>) =>
  now.groups.filter((group) => !before.groups.includes(group)).length;

describe("a list in groups", () => {
  const list = items(200);
  const before = regrouped<Item>(null, list);

  it("changes one group for one changed item, and none for items made anew", () => {
    const copies = list.map((item) => ({ ...item }));
    expect(fresh(regrouped(before, copies), before)).toBe(0);
    const changed = copies.map((item) => (item.id === "i77" ? { ...item, value: -1 } : item));
    const now = regrouped(before, changed);
    expect(fresh(now, before)).toBe(1);
    expect(listed(now)).toEqual(changed);
  });

  it("changes one group where an item comes or goes, and keeps all others in theirs", () => {
    const gone = list.filter((item) => item.id !== "i0");
    expect(fresh(regrouped(before, gone), before)).toBe(1);
    const come = [...list.slice(0, 50), { id: "new", value: 0 }, ...list.slice(50)];
    const now = regrouped(before, come);
    expect(fresh(now, before)).toBe(1);
    expect(listed(now)).toEqual(come);
  });

  it("draws any list whole, in its order, in groups of one key each", () => {
    let now = before;
    let state = 7;
    const next = (most: number) => {
      state = (state * 48271) % 2147483647; // the minimal standard generator (Park and Miller, 1988)
      return state % most;
    };
    let drawn = list;
    for (let step = 0; step < 60; step++) {
      const at = next(drawn.length);
      const piece = drawn.slice(at, at + next(40));
      const rest = [...drawn.slice(0, at), ...drawn.slice(at + piece.length)];
      const to = next(rest.length + 1);
      const more = Array.from({ length: next(30) }, (_, k) => ({ id: `n${step} ${k}`, value: k }));
      const kept = next(3) ? piece : [];
      drawn = [...rest.slice(0, to), ...kept, ...more, ...rest.slice(to)];
      now = regrouped(now, drawn);
      expect(listed(now)).toEqual(drawn);
      expect(new Set(now.groups.map((group) => group.key)).size).toBe(now.groups.length);
    }
  });
});
