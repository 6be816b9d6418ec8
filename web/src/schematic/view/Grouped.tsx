// Many things of a kind on the sheet, drawn in groups: what has not changed is passed over group by
// group, when the page compares and when the browser lays out.
import { type ComponentType, memo, type ReactNode, useRef } from "react";
import { type Groups, regrouped } from "./groups";

interface Props<Item> {
  /** What each is drawn from; `id` tells them apart. */
  items: readonly Item[];
  Draw: ComponentType<Item>;
}

export function Grouped<Item extends { id: string }>({ items, Draw }: Props<Item>) {
  const kept = useRef<Groups<Item> | null>(null);
  kept.current = regrouped(kept.current, items);
  return kept.current.groups.map((group) => (
    <OneGroup key={group.key} items={group.items} Draw={Draw} />
  ));
}

const OneGroup = memo(function OneGroup<Item extends { id: string }>({ items, Draw }: Props<Item>) {
  return (
    <g>
      {items.map((item) => (
        <Draw key={item.id} {...item} />
      ))}
    </g>
  );
}) as <Item extends { id: string }>(props: Props<Item>) => ReactNode;
