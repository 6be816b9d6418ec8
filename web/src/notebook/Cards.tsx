// The cards that are in view, in rows; of a thousand exercises, some twenty.
import { useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { BookCopy, Trash2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link, useLocation } from "wouter";
import { api, ask } from "../api/client";
import type { Card, Opened } from "../api/types";
import { useOffered, withBlocks } from "../schematic/editor/catalogue";
import type { Catalogue } from "../schematic/model/geometry";
import { Miniature } from "../schematic/view/Miniature";
import { IconButton } from "../ui/Button";
import { say } from "../ui/Toasts";
import type { Order } from "../ui/theme";
import { LISTED, useCards, type Wanted } from "./listed";

const NARROWEST = 304; // px of a card
const GAP = 20;
const HEIGHT = 312; // px of a card, before it is measured

interface Props extends Wanted {
  /** What scrolls. */
  page: HTMLElement;
  total: number;
}

export function Cards({ page, find, order, total }: Props) {
  const list = useRef<HTMLUListElement>(null);
  const catalogue = useOffered(); // asked for before there is a card that needs it
  const columns = useColumns(list);
  const rows = useVirtualizer({
    count: Math.ceil(total / columns),
    getScrollElement: () => page,
    estimateSize: () => HEIGHT,
    gap: GAP,
    overscan: 1,
    scrollMargin: list.current?.offsetTop ?? 0,
  });
  const inView = rows.getVirtualItems();
  const from = (inView[0]?.index ?? 0) * columns;
  const to = Math.min(total, ((inView.at(-1)?.index ?? 0) + 1) * columns) - 1;
  const cardAt = useCards({ find, order }, from, Math.max(from, to));
  return (
    <ul
      ref={list}
      aria-label="Exercises"
      className="relative"
      style={{ height: rows.getTotalSize() }}
    >
      {inView.map((row) => (
        <li
          key={row.key}
          data-index={row.index}
          ref={rows.measureElement}
          className="absolute inset-x-0 top-0"
          style={{ transform: `translateY(${row.start - rows.options.scrollMargin}px)` }}
        >
          <ul
            className="grid"
            style={{ gap: GAP, gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}
          >
            {Array.from({ length: columns }, (_, k) => row.index * columns + k)
              .filter((place) => place < total)
              .map((place) => {
                const card = cardAt(place);
                return card ? (
                  <ExerciseCard key={card.id} card={card} order={order} catalogue={catalogue} />
                ) : (
                  <li
                    key={`place ${place}`}
                    className="ruled rounded-xl border border-hairline bg-paper"
                    style={{ height: HEIGHT }}
                  />
                );
              })}
          </ul>
        </li>
      ))}
    </ul>
  );
}

function useColumns(list: React.RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(3 * NARROWEST + 2 * GAP);
  useEffect(() => {
    if (!list.current) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
    watch.observe(list.current);
    return () => watch.disconnect();
  }, [list]);
  return Math.max(1, Math.floor((width + GAP) / (NARROWEST + GAP)));
}

const dayOf = (moment: string) =>
  new Date(moment).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });

interface CardProps {
  card: Card;
  order: Order;
  catalogue: Catalogue;
}

function ExerciseCard({ card, order, catalogue }: CardProps) {
  const queries = useQueryClient();
  const [, go] = useLocation();
  const path = { identity: card.id };
  const refresh = () => queries.invalidateQueries({ queryKey: LISTED });

  const restore = async () => {
    await ask<void>(api.POST("/api/exercises/{identity}/restore", { params: { path } }));
    await refresh();
  };
  const remove = async () => {
    await ask<void>(api.DELETE("/api/exercises/{identity}", { params: { path } }));
    await refresh();
    say(`“${card.title || "Untitled"}” was deleted.`, { label: "Undo", run: () => void restore() });
  };
  const duplicate = async () => {
    const copy = await ask<Opened>(
      api.POST("/api/exercises/{identity}/duplicate", { params: { path } }),
    );
    go(`/exercises/${copy.id}`);
  };
  return (
    <li className="group relative flex flex-col overflow-hidden rounded-xl border border-hairline bg-paper transition-shadow focus-within:shadow-card hover:shadow-card">
      <div className="ruled h-44 border-b border-hairline p-4">
        {card.picture && (
          <Miniature
            schematic={card.picture.schematic}
            joints={card.picture.joints}
            catalogue={withBlocks(catalogue, card.picture.blocks)}
          />
        )}
      </div>
      <div className="flex grow flex-col px-4 pt-3 pb-3.5">
        <div className="flex items-baseline gap-2">
          {card.number && <span className="figure text-soft">{card.number}</span>}
          <h2 className="min-w-0 grow truncate font-serif text-xl">
            <Link
              href={`/exercises/${card.id}`}
              className="after:absolute after:inset-0 focus-visible:outline-none focus-visible:after:rounded-xl focus-visible:after:outline-2 focus-visible:after:-outline-offset-2 focus-visible:after:outline-accent"
            >
              {card.title || "Untitled"}
            </Link>
          </h2>
        </div>
        <p className="mt-1 line-clamp-2 min-h-10 text-sm text-soft">{card.purpose}</p>
        <div className="relative mt-3 flex items-center gap-2 text-[13px]">
          {card.picture && <Contents picture={card.picture} />}
          <span className="ml-auto truncate text-soft group-focus-within:invisible group-hover:invisible">
            {order === "group" ? card.group : dayOf(card.saved)}
          </span>
          <span className="absolute -right-2 z-10 flex opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
            <IconButton label={`Duplicate ${card.title}`} onClick={() => void duplicate()}>
              <BookCopy size={16} />
            </IconButton>
            <IconButton label={`Delete ${card.title}`} onClick={() => void remove()}>
              <Trash2 size={16} />
            </IconButton>
          </span>
        </div>
      </div>
    </li>
  );
}

function Contents({ picture }: { picture: NonNullable<Card["picture"]> }) {
  const parts = picture.parts === 1 ? "1 part" : `${picture.parts} parts`;
  const agreement =
    picture.compared === 0
      ? "nothing compared yet"
      : `${picture.agreeing} of ${picture.compared} agree`;
  return (
    <p className="shrink-0 text-soft">
      {parts} ·{" "}
      <span
        className={picture.compared && picture.agreeing === picture.compared ? "text-accent" : ""}
      >
        {agreement}
      </span>
      {picture.faults > 0 && (
        <span className="text-fault">
          {" "}
          · {picture.faults === 1 ? "1 fault" : `${picture.faults} faults`}
        </span>
      )}
    </p>
  );
}
