// Who one is, on a server that asks.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import type { Person } from "../api/types";

const ME = ["me"];

export function usePerson() {
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: ME,
    queryFn: () => ask<Person>(api.GET("/api/me")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return {
    /** Whether nothing is shown before one has signed in. */
    isStranger: Boolean(data?.needed && !data.name),
    name: data?.name ?? null,
    /** Throws Refused where name and password do not belong together. */
    signIn: async (name: string, password: string) => {
      const body = { name, password };
      queries.setQueryData(ME, await ask<Person>(api.POST("/api/sign-in", { body })));
    },
    signOut: async () => {
      await ask<void>(api.POST("/api/sign-out"));
      window.location.assign("/"); // nothing of what was theirs stays in the page
    },
  };
}
