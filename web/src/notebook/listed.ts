// The notebook as the server lists it: a stretch at a time, those that are looked at.
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import type { Card, Listed } from "../api/types";
import type { Order } from "../ui/theme";

export const LISTED = ["exercises"];
const STRETCH = 24; // cards
const SOON = 700; // ms until cards without a picture of now are asked for again

export interface Wanted {
  find: string;
  order: Order;
}

const stretch = ({ find, order }: Wanted, first: number) => ({
  queryKey: [...LISTED, order, find, first],
  queryFn: () =>
    ask<Listed>(
      api.GET("/api/exercises", { params: { query: { find, order, first, count: STRETCH } } }),
    ),
  refetchOnMount: "always" as const,
  refetchInterval: ({ state }: { state: { data?: Listed | undefined } }) =>
    state.data?.cards.some((card) => !card.is_current) ? SOON : false,
});

/** How many there are; of the words before, until that is known. */
export function useTotal(wanted: Wanted) {
  const { data, error, refetch } = useQuery({
    ...stretch(wanted, 0),
    placeholderData: keepPreviousData,
  });
  return { total: data?.total, error, refetch };
}

/** The card at a place between `from` and `to`, as far as it has come. */
export function useCards(wanted: Wanted, from: number, to: number): (place: number) => Card | null {
  const first = Math.floor(from / STRETCH);
  const count = Math.max(1, Math.ceil((to + 1) / STRETCH) - first);
  const stretches = useQueries({
    queries: Array.from({ length: count }, (_, k) => ({
      ...stretch(wanted, STRETCH * (first + k)),
      placeholderData: k + first === 0 ? keepPreviousData : undefined,
    })),
  });
  return (place) => {
    const found = stretches[Math.floor(place / STRETCH) - first];
    return found?.data?.cards[place % STRETCH] ?? null;
  };
}
