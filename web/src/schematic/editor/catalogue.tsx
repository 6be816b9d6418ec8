// The kinds of part, asked for once.
import { useQuery } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useMemo } from "react";
import { api, ask } from "../../api/client";
import type { Kind } from "../../api/types";
import { useExercise } from "../../document/store";
import type { Catalogue } from "../model/geometry";

const none: Catalogue = new Map();

const Known = createContext<Catalogue>(none);

/** Puts the catalogue, with the open exercise's own blocks, at the hand of what stands within. */
export function WithCatalogue({ children }: { children: ReactNode }) {
  const own = useOffered();
  const blocks = useExercise((state) => state.look?.blocks);
  const catalogue = useMemo(() => withBlocks(own, blocks), [own, blocks]);
  return <Known.Provider value={catalogue}>{children}</Known.Provider>;
}

/** The catalogue with the open exercise's own blocks. */
export const useCatalogue = (): Catalogue => useContext(Known);

export function withBlocks(offered: Catalogue, blocks: Kind[] | undefined): Catalogue {
  if (!blocks?.length) return offered;
  return new Map([...offered, ...blocks.map((kind) => [kind.key, kind] as const)]);
}

export async function offered(): Promise<Catalogue> {
  const kinds = await ask<Kind[]>(api.GET("/api/catalogue"));
  return new Map(kinds.map((kind) => [kind.key, kind]));
}

/** The kinds that the program brings along. */
export function useOffered(): Catalogue {
  const { data } = useQuery({
    queryKey: ["catalogue"],
    queryFn: offered,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data ?? none;
}
