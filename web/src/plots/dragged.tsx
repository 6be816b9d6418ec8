// A curve's name, dragged from where it is written to the plot it shall stand in.
import type { DragEvent, ReactNode } from "react";
import { create } from "zustand";

const KIND = "application/x-lucid-bench-curve";

/** The formula being dragged; null where none is. */
export const useDragged = create<{ formula: string | null }>()(() => ({ formula: null }));

interface NameProps {
  formula: string;
  children: ReactNode;
}

export function DraggedName({ formula, children }: NameProps) {
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: by key a menu does the same
    <span
      draggable
      title="Drag it to another plot, or below all for one of its own"
      onDragStart={(event) => {
        event.dataTransfer.setData(KIND, formula);
        event.dataTransfer.effectAllowed = "move";
        // What changes on the page at once would end the drag before it began.
        setTimeout(() => useDragged.setState({ formula }));
      }}
      onDragEnd={() => useDragged.setState({ formula: null })}
      className="cursor-grab rounded px-0.5 hover:bg-ruling"
    >
      {children}
    </span>
  );
}

/** What makes an element take dropped curves. */
export function dropTarget(onDropped: (formula: string) => void) {
  return {
    onDragOver: (event: DragEvent) => {
      if (event.dataTransfer.types.includes(KIND)) event.preventDefault();
    },
    onDrop: (event: DragEvent) => {
      const formula = event.dataTransfer.getData(KIND);
      if (!formula) return;
      event.preventDefault();
      useDragged.setState({ formula: null });
      onDropped(formula);
    },
  };
}
