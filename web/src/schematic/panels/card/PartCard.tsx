// The card of what is opened on the sheet: beside it, out of the way of what is drawn, and movable.
import { Popover } from "radix-ui";
import {
  type KeyboardEvent,
  memo,
  type PointerEvent,
  type RefObject,
  useEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Point } from "../../../api/types";
import { useExercise } from "../../../document/store";
import { noteBox } from "../../annotations/noteBox";
import type { Note } from "../../annotations/notes";
import { useCatalogue } from "../../editor/catalogue";
import { focusCard, focusSheet } from "../../editor/focus";
import { useShape } from "../../editor/shape";
import { useEditorStore } from "../../editor/tools";
import { type Box, bodyOf, grown, kindOf, segmentsOf, spanned } from "../../model/geometry";
import type { View } from "../../model/view";

import { NodeFields } from "./NodeFields";
import { NoteField } from "./NoteField";
import { PartFields } from "./PartFields";
import { type Side, sideFor } from "./side";

interface Props {
  view: View;
  /** What is written on the drawing. */
  written: RefObject<Note[]>;
}

export const PartCard = memo(function PartCard({ view, written }: Props) {
  const card = useEditorStore((state) => state.card);
  const catalogue = useCatalogue();
  // What stands in the card follows by itself; the card is put up anew only where its place changes.
  const sheet = useShape();
  const part = sheet.parts.find((item) => item.id === card);
  const label = sheet.labels.find((item) => item.id === card);
  const note = sheet.notes.find((item) => item.id === card);
  const content = useRef<HTMLDivElement>(null);
  const mover = useMover(card);
  const box = part
    ? bodyOf(part, catalogue)
    : note
      ? noteBox(note)
      : spanned(label?.at ?? [0, 0], label?.at ?? [0, 0]);
  // Once for each card: it does not jump as values change.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above
  const side: Side = useMemo(() => {
    const bodies = sheet.parts.filter((other) => other.id !== card);
    const boxes = [
      ...bodies.map((other) => bodyOf(other, catalogue)),
      ...written.current.map((text) => text.box),
      ...sheet.wires.flatMap(({ points }) =>
        segmentsOf(points).map(([a, b]) => grown(spanned(a, b), 0.5)),
      ),
    ];
    const frame = document.querySelector(".sheet")?.getBoundingClientRect();
    const onPage = (b: Box): Box => ({
      left: (frame?.left ?? 0) + (b.left - view.x) * view.scale,
      right: (frame?.left ?? 0) + (b.right - view.x) * view.scale,
      top: (frame?.top ?? 0) + (b.top - view.y) * view.scale,
      bottom: (frame?.top ?? 0) + (b.bottom - view.y) * view.scale,
    });
    const page = { left: 0, top: 0, right: window.innerWidth, bottom: window.innerHeight };
    return sideFor(onPage(box), boxes.map(onPage), page, Boolean(part));
  }, [card]);
  if (!part && !label && !note) return null;

  const close = () => {
    useExercise.getState().endGroup();
    useEditorStore.getState().set({ card: null });
  };
  const kind = part && kindOf(part, catalogue);
  return (
    <Popover.Root open onOpenChange={(open) => !open && close()} key={card}>
      <Popover.Anchor
        className="pointer-events-none absolute"
        style={{
          left: (box.left - view.x) * view.scale,
          top: (box.top - view.y) * view.scale,
          width: (box.right - box.left) * view.scale,
          height: (box.bottom - box.top) * view.scale,
        }}
      />
      <Popover.Portal>
        <Popover.Content
          ref={content}
          data-card
          side={side}
          sideOffset={14}
          collisionPadding={12}
          aria-label={
            part ? `${kind?.label ?? "Part"} ${part.name}` : note ? "Note" : `Node ${label?.name}`
          }
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            focusCard();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            // It comes a moment later; by then another card may be open, or a field have the focus.
            if (document.activeElement === document.body && !useEditorStore.getState().card)
              focusSheet();
          }}
          onInteractOutside={(event) => {
            // A press on the sheet closes the card by itself, and may open another.
            if ((event.target as Element).closest?.(".sheet")) event.preventDefault();
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter" && !toNextField(event)) close();
          }}
          {...mover.handlers}
          style={{ translate: `${mover.by[0]}px ${mover.by[1]}px` }}
          className="z-30 max-h-[var(--radix-popover-content-available-height)] w-80 cursor-move overflow-y-auto rounded-xl border border-hairline bg-raised p-4 shadow-card outline-none select-none"
        >
          {part ? (
            <PartFields id={part.id} />
          ) : note ? (
            <NoteField note={note} />
          ) : (
            label && <NodeFields label={label} />
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
});

/** Enter in a line of text goes to the next of the card; false where there is none, or it is elsewhere. */
function toNextField(event: KeyboardEvent<HTMLElement>): boolean {
  const at = event.target;
  if (!(at instanceof HTMLInputElement)) return true;
  const fields = [
    ...event.currentTarget.querySelectorAll<HTMLInputElement>(
      "input:not([type=range], [data-late])",
    ),
  ].filter((field) => field.checkVisibility());
  const next = fields[fields.indexOf(at) + 1];
  next?.focus();
  next?.select();
  return next !== undefined;
}

const STILL = "input, textarea, select, button, a, summary, label, [role=radio]";

/** A card is moved by whatever in it is no field or button; another card begins where it belongs. */
function useMover(card: string | null) {
  const [by, setBy] = useState<Point>([0, 0]);
  const held = useRef<{ from: Point; by: Point } | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: for every card anew
  useEffect(() => setBy([0, 0]), [card]);
  const handlers = {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      const at = event.target as Element;
      // What a menu of the card is pressed for comes by here too.
      if (event.button || at.closest(STILL) || !event.currentTarget.contains(at)) return;
      held.current = { from: [event.clientX, event.clientY], by };
      event.currentTarget.setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      if (!held.current) return;
      const { from, by: start } = held.current;
      setBy([start[0] + event.clientX - from[0], start[1] + event.clientY - from[1]]);
    },
    onPointerUp: () => {
      held.current = null;
    },
    onPointerCancel: () => {
      held.current = null;
    },
  };
  return { by, handlers };
}
