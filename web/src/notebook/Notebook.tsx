// The notebook: every exercise as a card with its schematic, what is in it and how much agrees.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { BookCopy, Moon, Search, Sun, Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, useLocation } from "wouter";
import { api, ask } from "../api/client";
import type { Card, Opened } from "../api/types";
import { useOffered, withBlocks } from "../schematic/hand/catalogue";
import { Miniature } from "../schematic/view/Miniature";
import { Button, IconButton } from "../ui/Button";
import { say } from "../ui/Toasts";
import { usePreferences } from "../ui/theme";
import { NewExercise } from "./NewExercise";

const LISTED = ["exercises"];

export function Notebook() {
  const [, go] = useLocation();
  const [wanted, setWanted] = useState("");
  const { theme, set } = usePreferences();
  const { data, error, refetch } = useQuery({
    queryKey: LISTED,
    queryFn: () => ask<Card[]>(api.GET("/api/exercises")),
    refetchOnMount: "always",
  });
  useEffect(() => {
    document.title = "Notebook · Lucid Bench";
  }, []);

  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = data?.filter((card) =>
    words.every((word) =>
      `${card.number} ${card.title} ${card.group} ${card.author} ${card.purpose}`
        .toLowerCase()
        .includes(word),
    ),
  );
  return (
    <div className="h-full overflow-y-auto">
      <div className="mx-auto max-w-6xl px-8 py-8">
        <header className="mb-8 flex items-end gap-3">
          <div className="grow">
            <h1 className="font-serif text-4xl font-medium tracking-tight">Notebook</h1>
            <p className="mt-1 text-soft">
              Circuits <span className="voice-hand font-serif">by hand</span>,{" "}
              <span className="voice-simulated font-serif">simulated</span> and{" "}
              <span className="voice-bench font-serif">on the bench</span>, side by side.
            </p>
          </div>
          <label className="relative">
            <span className="sr-only">Find an exercise</span>
            <Search size={16} className="absolute top-2.5 left-2.5 text-soft" aria-hidden="true" />
            <input
              type="search"
              value={wanted}
              placeholder="Find"
              onChange={(event) => setWanted(event.target.value)}
              className="h-9 w-44 rounded-md border border-hairline bg-paper pr-2 pl-8 text-sm placeholder:text-soft focus:border-accent focus:outline-2 focus:outline-accent"
            />
          </label>
          <IconButton
            label={theme === "dark" ? "Light theme" : "Dark theme"}
            onClick={() => set({ theme: theme === "dark" ? "light" : "dark" })}
          >
            {theme === "dark" ? <Sun size={18} /> : <Moon size={18} />}
          </IconButton>
          <NewExercise onOpened={(id) => go(`/exercises/${id}`)} />
        </header>

        {error && (
          <p role="alert" className="rounded-lg bg-fault-wash px-4 py-3 text-fault">
            {error.message}{" "}
            <button type="button" className="underline" onClick={() => void refetch()}>
              Try again
            </button>
          </p>
        )}
        {data?.length === 0 && (
          <div className="rounded-2xl border border-dashed border-edge bg-paper px-8 py-14 text-center">
            <p className="font-serif text-2xl">Nothing in the notebook yet</p>
            <p className="mt-2 text-soft">
              Begin an exercise: draw a circuit, work it out, compare.
            </p>
          </div>
        )}
        {shown?.length === 0 && data?.length !== 0 && (
          <p className="text-soft">No exercise has these words in its title, group or purpose.</p>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(19rem,1fr))] gap-5">
          {shown?.map((card) => (
            <ExerciseCard key={card.id} card={card} />
          ))}
        </ul>
        <Deleted />
      </div>
    </div>
  );
}

function ExerciseCard({ card }: { card: Card }) {
  const catalogue = useOffered();
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
        <Miniature
          schematic={card.schematic}
          joints={card.joints}
          catalogue={withBlocks(catalogue, card.blocks)}
        />
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
        <div className="mt-3 flex items-center gap-2 text-[13px]">
          <Contents card={card} />
          <span className="relative z-10 -my-1 ml-auto flex opacity-0 transition-opacity group-focus-within:opacity-100 group-hover:opacity-100">
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

function Contents({ card }: { card: Card }) {
  const parts = card.parts === 1 ? "1 part" : `${card.parts} parts`;
  const agreement =
    card.compared === 0 ? "nothing compared yet" : `${card.agreeing} of ${card.compared} agree`;
  return (
    <p className="text-soft">
      {parts} ·{" "}
      <span className={card.compared && card.agreeing === card.compared ? "text-accent" : ""}>
        {agreement}
      </span>
      {card.faults > 0 && (
        <span className="text-fault">
          {" "}
          · {card.faults === 1 ? "1 fault" : `${card.faults} faults`}
        </span>
      )}
    </p>
  );
}

function Deleted() {
  const queries = useQueryClient();
  const { data } = useQuery({
    queryKey: [...LISTED, "deleted"],
    queryFn: () => ask<Card[]>(api.GET("/api/exercises", { params: { query: { deleted: true } } })),
    refetchOnMount: "always",
  });
  if (!data?.length) return null;
  const restore = async (id: number) => {
    const path = { identity: id };
    await ask<void>(api.POST("/api/exercises/{identity}/restore", { params: { path } }));
    await queries.invalidateQueries({ queryKey: LISTED });
  };
  return (
    <details className="mt-10 text-sm">
      <summary className="cursor-pointer text-soft">
        Deleted in the last 30 days ({data.length})
      </summary>
      <ul className="mt-2 space-y-1">
        {data.map((card) => (
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
