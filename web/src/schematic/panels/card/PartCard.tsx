import { Popover } from "radix-ui";
import { memo, useRef } from "react";
import { useExercise } from "../../../document/store";
import { noteBox } from "../../annotations/noteBox";
import { useCatalogue } from "../../hand/catalogue";
import { useShape } from "../../hand/shape";
import { useHand } from "../../hand/tools";
import { bodyOf, kindOf, spanned } from "../../model/geometry";
import type { View } from "../../model/view";

import { NodeFields } from "./NodeFields";
import { NoteField } from "./NoteField";
import { PartFields } from "./PartFields";

export const PartCard = memo(function PartCard({ view }: { view: View }) {
  const card = useHand((state) => state.card);
  const catalogue = useCatalogue();
  // What stands in the card follows by itself; the card is put up anew only where its place changes.
  const sheet = useShape();
  const part = sheet.parts.find((item) => item.id === card);
  const label = sheet.labels.find((item) => item.id === card);
  const note = sheet.notes.find((item) => item.id === card);
  const content = useRef<HTMLDivElement>(null);
  if (!part && !label && !note) return null;

  const box = part
    ? bodyOf(part, catalogue)
    : note
      ? noteBox(note)
      : spanned(label?.at ?? [0, 0], label?.at ?? [0, 0]);
  const close = () => {
    useExercise.getState().endGroup();
    useHand.getState().set({ card: null });
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
          side="right"
          sideOffset={14}
          collisionPadding={12}
          aria-label={
            part ? `${kind?.label ?? "Part"} ${part.name}` : note ? "Note" : `Node ${label?.name}`
          }
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            content.current?.querySelector<HTMLInputElement>("[data-first]")?.select?.();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            document.querySelector<HTMLElement>(".sheet")?.focus();
          }}
          onInteractOutside={(event) => {
            // A press on the sheet closes the card by itself, and may open another.
            if ((event.target as Element).closest?.(".sheet")) event.preventDefault();
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter" && event.target instanceof HTMLInputElement) close();
          }}
          className="z-30 max-h-[var(--radix-popover-content-available-height)] w-80 overflow-y-auto rounded-xl border border-hairline bg-raised p-4 shadow-card outline-none"
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
