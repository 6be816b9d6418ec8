// Long lists kept in groups, so that where nothing of a group has changed, it can be passed over whole.

const SIZE = 24;

interface Named {
  id: string;
}

export interface Group<Item> {
  key: number;
  items: readonly Item[];
}

export interface Groups<Item> {
  list: readonly Item[];
  groups: readonly Group<Item>[];
  next: number;
}

/** `list` in groups, in its order. An item stays in its group while others come and go; where all of a
 * group are alike to what they were `before`, its list is the very same. */
export function regrouped<Item extends Named>(
  before: Groups<Item> | null,
  list: readonly Item[],
): Groups<Item> {
  if (before?.list === list) return before;
  if (before && inOneOrder(before.list, list)) {
    let first = 0;
    const groups = before.groups.map((group) => {
      const start = first;
      first += group.items.length;
      return renewed(group, list.slice(start, first));
    });
    return { list, groups, next: before.next };
  }
  return grouped(before, list);
}

const inOneOrder = (before: readonly Named[], now: readonly Named[]): boolean =>
  before.length === now.length && before.every((item, k) => item.id === now[k]?.id);

/** The group with these items in place of those of the same ids. */
function renewed<Item extends Named>(group: Group<Item>, items: Item[]): Group<Item> {
  let same = group.items.length === items.length;
  for (const [k, item] of items.entries()) {
    const known = group.items[k];
    if (known && known.id === item.id && alike(known, item)) items[k] = known;
    else same = false;
  }
  return same ? group : { key: group.key, items };
}

function grouped<Item extends Named>(
  before: Groups<Item> | null,
  list: readonly Item[],
): Groups<Item> {
  const of = new Map<string, { item: Item; group: Group<Item> }>();
  for (const group of before?.groups ?? [])
    for (const item of group.items) of.set(item.id, { item, group });
  const found: { key: number; from: number; items: Item[] }[] = [];
  const taken = new Set<number>();
  let next = before?.next ?? 0;
  for (const item of list) {
    const known = of.get(item.id);
    let open = found.at(-1);
    const stays = known ? known.group.key === open?.from : (open?.items.length ?? SIZE) < SIZE;
    if (!open || !stays || open.items.length >= 2 * SIZE) {
      const key = known && !taken.has(known.group.key) ? known.group.key : next++;
      open = { key, from: known?.group.key ?? key, items: [] };
      taken.add(key);
      found.push(open);
    }
    open.items.push(known && alike(known.item, item) ? known.item : item);
  }
  const earlier = new Map(before?.groups.map((group) => [group.key, group]));
  const groups = found.map(({ key, items }) =>
    renewed(earlier.get(key) ?? { key, items: [] }, items),
  );
  return { list, groups, next };
}

function alike<Item extends Named>(a: Item, b: Item): boolean {
  if (a === b) return true;
  for (const key in b) if (a[key] !== b[key]) return false;
  return true;
}
