// The two-page spread: the schematic on the left, one station of work on the right, a seam between.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link } from "wouter";
import { api, ask } from "../api/client";
import type { Opened } from "../api/types";
import { keepLooking } from "../document/looking";
import { keepSaving, takeUpDraft } from "../document/saving";
import { useExercise } from "../document/store";
import { useChosenRun } from "../plots/runsOf";
import { WithCatalogue } from "../schematic/editor/catalogue";
import { showFiguresOf } from "../schematic/editor/figures";
import { useEditorStore } from "../schematic/editor/tools";
import { SchematicPage } from "../schematic/SchematicPage";
import { isKeyOf } from "../ui/commands";
import { Guarded } from "../ui/Guarded";
import { usePreferences } from "../ui/theme";
import { ClashNote } from "./ClashNote";
import { redo, undo } from "./documentCommands";
import { Header } from "./Header";
import { Palette } from "./Palette";
import { Stations } from "./Stations";

export function ExercisePage({ id, station }: { id: number; station: string | undefined }) {
  const openId = useExercise((state) => state.id);
  const { data, error } = useQuery({
    queryKey: ["exercise", id],
    queryFn: () =>
      ask<Opened>(api.GET("/api/exercises/{identity}", { params: { path: { identity: id } } })),
    gcTime: 0,
    staleTime: Number.POSITIVE_INFINITY,
    refetchOnWindowFocus: false,
  });

  useEffect(() => {
    if (!data) return;
    useEditorStore.getState().reset();
    useChosenRun.setState({ id: null });
    showFiguresOf(null);
    useExercise.getState().open(data);
    void takeUpDraft(data);
    const stopLooking = keepLooking();
    const stopSaving = keepSaving();
    return () => {
      stopSaving();
      stopLooking();
      useExercise.getState().close();
    };
  }, [data]);
  useUndoKeys();

  if (error)
    return (
      <main className="flex h-full flex-col items-center justify-center gap-3 text-center">
        <h1 className="font-serif text-2xl">This exercise cannot be opened</h1>
        <p className="text-soft">{error.message}</p>
        <Link href="/" className="text-accent underline underline-offset-4">
          Back to the notebook
        </Link>
      </main>
    );
  if (openId !== id) return <p className="p-8 text-soft">Opening …</p>;
  return (
    <WithCatalogue>
      <div className="flex h-full min-w-[853px] flex-col">
        <Header />
        <ClashNote />
        <Spread station={station} />
        <Palette />
      </div>
    </WithCatalogue>
  );
}

const SCHEMATIC = <SchematicPage />; // made once, as the stations are

function Spread({ station }: { station: string | undefined }) {
  const seam = usePreferences((preferences) => preferences.seam);
  const document = useExercise((state) => state.document);
  return (
    <main className="flex min-h-0 grow border-t border-hairline">
      <section
        aria-label="Schematic"
        className="min-w-0 shrink-0"
        style={{ width: `${seam * 100}%` }}
      >
        <Guarded what="The schematic" again={[document]}>
          {SCHEMATIC}
        </Guarded>
      </section>
      <Splitter />
      <section aria-label="Stations" className="min-w-0 grow bg-paper">
        <Stations station={station} />
      </section>
    </main>
  );
}

const NARROWEST = 0.3;
const WIDEST = 0.7;
const NUDGE = 0.02;

function Splitter() {
  const { seam, set } = usePreferences();
  const dragging = useRef(false);
  const to = (share: number) => set({ seam: Math.min(Math.max(share, NARROWEST), WIDEST) });
  return (
    <div
      role="separator"
      aria-label="Seam between the pages"
      aria-orientation="vertical"
      aria-valuenow={Math.round(seam * 100)}
      aria-valuemin={NARROWEST * 100}
      aria-valuemax={WIDEST * 100}
      tabIndex={0}
      className="group relative z-10 w-px shrink-0 cursor-col-resize bg-hairline before:absolute before:inset-y-0 before:-left-1.5 before:w-3 hover:bg-accent"
      onPointerDown={(event) => {
        dragging.current = true;
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerMove={(event) => dragging.current && to(event.clientX / window.innerWidth)}
      onPointerUp={() => {
        dragging.current = false;
      }}
      onDoubleClick={() => to(0.56)}
      onKeyDown={(event) => {
        if (event.key === "ArrowLeft") to(seam - NUDGE);
        if (event.key === "ArrowRight") to(seam + NUDGE);
      }}
    />
  );
}

function useUndoKeys() {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const meant = [undo, redo].find((command) => isKeyOf(command, event));
      if (!meant) return;
      event.preventDefault();
      meant.run();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
