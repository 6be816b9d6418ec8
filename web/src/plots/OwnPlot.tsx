// Where a curve that is dragged gets a plot of its own.
import { dropTarget, useDragged } from "./dragged";

/** Where a dragged curve gets a plot of its own; there while one is dragged. */
export function OwnPlot({ onDropped }: { onDropped(formula: string): void }) {
  const formula = useDragged((state) => state.formula);
  if (!formula) return null;
  return (
    <p
      {...dropTarget(onDropped)}
      className="m-2 rounded-md border border-accent border-dashed p-3 text-center text-sm text-soft"
    >
      Drop it here for a plot of its own
    </p>
  );
}
