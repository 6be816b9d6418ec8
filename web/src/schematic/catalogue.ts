// The kinds of part, asked for once.
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import type { Kind } from "../api/types";
import type { Catalogue } from "./geometry";

const none: Catalogue = new Map();

export function useCatalogue(): Catalogue {
  const { data } = useQuery({
    queryKey: ["catalogue"],
    queryFn: async () => {
      const kinds = await ask<Kind[]>(api.GET("/api/catalogue"));
      return new Map(kinds.map((kind) => [kind.kind, kind])) as Catalogue;
    },
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data ?? none;
}
