// What the program brings along, which does not change while a page is open.
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "./client";
import type { Analysis, Exports } from "./types";

const FOR_GOOD = { staleTime: Number.POSITIVE_INFINITY };

export const useAnalyses = () =>
  useQuery({
    queryKey: ["analyses"],
    queryFn: () => ask<Analysis[]>(api.GET("/api/analyses")),
    ...FOR_GOOD,
  });

/** The forms that files have; none till they are known. */
export function useExports(): Exports {
  const { data } = useQuery({
    queryKey: ["exports"],
    queryFn: () => ask<Exports>(api.GET("/api/exports")),
    ...FOR_GOOD,
  });
  return data ?? { runs: [], ledgers: [], columns: [] };
}
