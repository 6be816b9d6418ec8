// The notebook: every exercise as a card with its schematic, what is in it and how much agrees.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { LogOut, Moon, Search, Sun } from "lucide-react";
import { useDeferredValue, useEffect, useState } from "react";
import { useLocation } from "wouter";
import { api, ask } from "../api/client";
import type { Listed } from "../api/types";
import { Button, IconButton } from "../ui/Button";
import { usePerson } from "../ui/person";
import { type Order, usePreferences } from "../ui/theme";
import { Voices } from "../ui/Voices";
import { Cards } from "./Cards";
import { LISTED, useTotal } from "./listed";
import { NewExercise } from "./NewExercise";

const ORDERS: [Order, string][] = [
  ["newest", "Newest first"],
  ["oldest", "Oldest first"],
  ["title", "By title"],
  ["number", "By number"],
  ["group", "By group"],
];

export function Notebook() {
  const [, go] = useLocation();
  const [typed, setTyped] = useState("");
  const find = useDeferredValue(typed.trim());
  const { theme, order, set } = usePreferences();
  const [page, setPage] = useState<HTMLDivElement | null>(null);
  const { total, error, refetch } = useTotal({ find, order });
  useEffect(() => {
    document.title = "Notebook · Lucid Bench";
  }, []);

  return (
    <div ref={setPage} className="h-full overflow-y-auto">
      <div className="mx-auto max-w-6xl px-8 py-8">
        <header className="mb-8 flex items-end gap-3">
          <div className="grow">
            <h1 className="font-serif text-4xl font-medium tracking-tight">Notebook</h1>
            <p className="mt-1 text-soft">
              <Voices />, side by side.
            </p>
          </div>
          <label className="relative">
            <span className="sr-only">Find an exercise</span>
            <Search size={16} className="absolute top-2.5 left-2.5 text-soft" aria-hidden="true" />
            <input
              type="search"
              value={typed}
              placeholder="Find"
              maxLength={200}
              onChange={(event) => setTyped(event.target.value)}
              className="h-9 w-44 rounded-md border border-hairline bg-paper pr-2 pl-8 text-sm placeholder:text-soft focus:border-accent focus:outline-2 focus:outline-accent"
            />
          </label>
          <select
            aria-label="Order of the notebook"
            value={order}
            onChange={(event) => set({ order: event.target.value as Order })}
            className="h-9 rounded-md border border-hairline bg-paper px-2 text-sm focus:border-accent focus:outline-2 focus:outline-accent"
          >
            {ORDERS.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
          <IconButton
            label={theme === "dark" ? "Light theme" : "Dark theme"}
            onClick={() => set({ theme: theme === "dark" ? "light" : "dark" })}
          >
            {theme === "dark" ? <Sun size={18} /> : <Moon size={18} />}
          </IconButton>
          <SignedIn />
          <NewExercise onOpened={(id) => go(`/exercises/${id}`)} />
        </header>

        {error && (
          <p role="alert" className="mb-5 rounded-lg bg-fault-wash px-4 py-3 text-fault">
            {error.message}{" "}
            <button type="button" className="underline" onClick={() => void refetch()}>
              Try again
            </button>
          </p>
        )}
        {total === 0 && !find && (
          <div className="rounded-2xl border border-dashed border-edge bg-paper px-8 py-14 text-center">
            <p className="font-serif text-2xl">Nothing in the notebook yet</p>
            <p className="mt-2 text-soft">
              Begin an exercise: draw a circuit, work it out, compare.
            </p>
          </div>
        )}
        {total === 0 && find && (
          <p className="text-soft">
            No exercise has these words in its title, number, group, author or purpose.
          </p>
        )}
        {page && <Cards page={page} find={find} order={order} total={total ?? 0} />}
        {total !== undefined && <Deleted />}
      </div>
    </div>
  );
}

/** Who one is signed in as, on a server that asks. */
function SignedIn() {
  const { name, signOut } = usePerson();
  if (!name) return null;
  return (
    <Button look="quiet" aria-label={`Sign out ${name}`} onClick={() => void signOut()}>
      {name} <LogOut size={16} aria-hidden="true" />
    </Button>
  );
}

const MOST_DELETED = 100; // shown; the latest

function Deleted() {
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: [...LISTED, "deleted"],
    queryFn: () =>
      ask<Listed>(
        api.GET("/api/exercises", { params: { query: { deleted: true, count: MOST_DELETED } } }),
      ),
    refetchOnMount: "always",
  });
  if (!data?.total) return null;
  const restore = async (id: number) => {
    const path = { identity: id };
    await ask<void>(api.POST("/api/exercises/{identity}/restore", { params: { path } }));
    await queries.invalidateQueries({ queryKey: LISTED });
  };
  return (
    <details className="mt-10 text-sm">
      <summary className="cursor-pointer text-soft">
        Deleted in the last 30 days ({data.total})
      </summary>
      <ul className="mt-2 space-y-1">
        {data.cards.map((card) => (
          <li key={card.id} className="flex items-center gap-3">
            <span>{card.title || "Untitled"}</span>
            <Button
              look="quiet"
              aria-label={`Restore ${card.title}`}
              onClick={() => void restore(card.id)}
            >
              Restore
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
