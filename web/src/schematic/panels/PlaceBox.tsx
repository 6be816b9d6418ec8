// Type to place: what was typed, what it is understood as, and the near alternatives.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, ask } from "../../api/client";
import type { Interpretation, Placement } from "../../api/types";
import { Listbox, useChoosing } from "../../ui/Listbox";
import { Pill } from "../../ui/Pill";
import {
  drawing,
  mirror,
  nameFor,
  placeAt,
  placementOf,
  startPlacing,
  turn,
} from "../editor/actions";
import { useCatalogue } from "../editor/catalogue";
import { focusSheet } from "../editor/focus";
import { useEditorStore } from "../editor/tools";
import { freeName } from "../model/edits";
import type { Catalogue } from "../model/geometry";
import { PartSymbol } from "../view/Symbol";

export function PlaceBox() {
  const typed = useEditorStore((state) => state.typed);
  const set = useEditorStore((state) => state.set);
  const catalogue = useCatalogue();
  const input = useRef<HTMLInputElement>(null);
  const open = typed !== null;
  // Keys pressed while the answer to the last one is awaited are meant for what will be placed.
  const waiting = useRef<string[] | null>(null);
  const { data, isPlaceholderData, error } = useQuery({
    queryKey: ["interpret", typed],
    queryFn: () => ask<Interpretation>(api.POST("/api/interpret", { body: { text: typed ?? "" } })),
    enabled: Boolean(typed?.trim()),
    placeholderData: (before) => before,
    staleTime: 60_000,
  });

  useEffect(() => {
    if (!open || !input.current) return;
    input.current.focus();
    const end = input.current.value.length;
    input.current.setSelectionRange(end, end);
  }, [open]);

  const understood = typed?.trim() ? data : undefined;
  const placements = [...blocksCalled(typed ?? "", catalogue), ...(understood?.placements ?? [])];
  const choosing = useChoosing(placements.length, 0);
  if (!open) return null;
  const problem =
    placements.length || !typed.trim() ? null : (error?.message ?? understood?.problem);

  const close = () => {
    set({ typed: null });
    focusSheet();
  };
  const start = (placement: Placement | undefined) => {
    if (!placement) return;
    choosing.begin();
    startPlacing(placement);
    focusSheet();
  };
  const enter = async () => {
    if (data && !isPlaceholderData) {
      start(placements[choosing.at ?? 0]);
      return;
    }
    const keys: string[] = [];
    waiting.current = keys;
    try {
      const read = await ask<Interpretation>(api.POST("/api/interpret", { body: { text: typed } }));
      start(blocksCalled(typed, catalogue)[0] ?? read.placements[0]);
      for (const key of keys) {
        if (key === "r") turn(catalogue);
        if (key === "m") mirror(catalogue);
        if (key === "Enter") placeAt(useEditorStore.getState().cursor, catalogue);
      }
    } finally {
      waiting.current = null;
    }
  };

  return (
    <div className="pointer-events-auto w-80 self-center rounded-xl border border-hairline bg-raised shadow-card focus-within:border-accent">
      <input
        ref={input}
        {...choosing.field}
        aria-label="Type to place"
        value={typed}
        placeholder="4k7, 100n, 5V, npn, sine 1kHz 2V, gnd …"
        spellCheck={false}
        autoComplete="off"
        onChange={(event) => {
          set({ typed: event.target.value });
          choosing.begin();
        }}
        onBlur={(event) => {
          if (!event.currentTarget.parentElement?.contains(event.relatedTarget))
            set({ typed: null });
        }}
        onKeyDown={(event) => {
          if (waiting.current) waiting.current.push(event.key);
          else if (event.key === "Enter") void enter();
          else if (event.key === "Escape") close();
          else if (!choosing.step(event.key)) return;
          event.preventDefault();
        }}
        className="figure block w-full rounded-t-xl bg-transparent px-4 py-2.5 text-lg placeholder:text-base placeholder:text-soft focus:outline-none"
      />
      {problem && (
        <div role="alert" className="border-t border-hairline px-4 py-2.5 text-sm text-fault">
          {problem}
          {understood?.corrections.map((correction) => (
            <Pill
              key={correction.text}
              className="mt-2 block"
              onClick={() => {
                set({ typed: correction.text });
                input.current?.focus();
              }}
            >
              {correction.label}
            </Pill>
          ))}
        </div>
      )}
      <Listbox<Placement>
        label="What can be placed"
        choosing={choosing}
        offers={placements}
        keyOf={({ kind, form, style, label }) => `${kind}${form}${style}${label}`}
        onTake={start}
        isBusy={isPlaceholderData}
        look="border-t border-hairline p-1"
        row="items-center rounded-lg py-1.5"
      >
        {(placement) => (
          <>
            <Thumbnail kind={placement.kind ?? null} style={placement.style} />
            <span className={placement.kind ? "" : "font-serif italic"}>
              {calledSo(placement, catalogue)}
            </span>
            <span className="figure ml-auto text-right text-simulated">{placement.detail}</span>
          </>
        )}
      </Listbox>
    </div>
  );
}

/** What would be placed, by the name it will have. */
function calledSo(placement: Placement, catalogue: Catalogue): string {
  const { parts } = drawing();
  const kind = catalogue.get(placement.kind ?? "");
  if (!placement.name || !kind || nameFor(placement, parts)) return placement.label;
  return `${kind.label} ${freeName(kind.prefix, parts)} (${placement.name} is taken)`;
}

/** The exercise's own blocks whose name begins with what was typed. */
function blocksCalled(typed: string, catalogue: Catalogue): Placement[] {
  const text = typed.trim().toLowerCase();
  const found = [...catalogue.values()].filter(
    (kind) => text && kind.kind === "block" && kind.label.toLowerCase().startsWith(text),
  );
  return found.map((kind) => ({ ...placementOf(kind), detail: "block" }));
}

interface ThumbnailProps {
  kind: string | null;
  style?: Placement["style"];
}

/** A part's symbol; without a kind, a wire with a node's name or a supply on it. */
export function Thumbnail({ kind, style = "supply" }: ThumbnailProps) {
  const catalogue = useCatalogue();
  const found = kind ? catalogue.get(kind) : undefined;
  if (!found)
    return (
      <svg aria-hidden="true" viewBox="-3.4 -2 6.8 4" className="h-5 w-9">
        <path
          className="stroke"
          d={`M-3 0.8H3M0 0.8V-0.6${style === "supply" ? "M-1 -0.6H1" : "H1.9V-1.6H0Z"}`}
        />
      </svg>
    );
  const [left, top, right, bottom] = found.body;
  const ground = found.pins.length === 1;
  // As large as its pins allow, but no symbol larger than a plain two-pin part would be.
  const half = Math.max(2.7, right, -left, ((bottom - top) / 2 + 0.4) / 0.8);
  const middle = (top + bottom) / 2;
  return (
    <svg
      aria-hidden="true"
      viewBox={
        ground ? "-2.6 -0.5 5.2 2.8" : `${-half} ${middle - 0.8 * half} ${2 * half} ${1.6 * half}`
      }
      className="h-7 w-9 shrink-0"
    >
      <PartSymbol kind={found} part={{ at: [0, 0], rotation: 0, mirror: false }} />
    </svg>
  );
}
