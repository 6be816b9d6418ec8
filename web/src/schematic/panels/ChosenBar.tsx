// What can be done with several things at once, shown while they are chosen.
import {
  AlignHorizontalJustifyCenter,
  AlignVerticalJustifyCenter,
  Box,
  CopyPlus,
  FlipHorizontal2,
  GripHorizontal,
  RotateCw,
  Trash2,
} from "lucide-react";
import { IconButton } from "../../ui/Button";
import { align, duplicate, mirror, remove, space, turn } from "../editor/actions";
import { makeBlock } from "../editor/blocks";
import { useCatalogue } from "../editor/catalogue";
import { useShape } from "../editor/shape";
import { useEditorStore } from "../editor/tools";

export function ChosenBar() {
  const catalogue = useCatalogue();
  const chosen = useEditorStore((state) => state.chosen);
  const idle = useEditorStore((state) => state.tool.kind === "idle");
  const drawn = useShape().parts;
  const parts = drawn.filter((part) => chosen.has(part.id)).length;
  if (chosen.size < 2 || !parts || !idle) return null;
  return (
    <div
      role="toolbar"
      aria-label="Selection"
      className="flex max-w-full flex-wrap items-center justify-center rounded-xl border border-hairline bg-raised/95 p-0.5 shadow-card"
    >
      <span className="px-2 text-[13px] whitespace-nowrap text-soft">
        {parts === 1 ? "1 part" : `${parts} parts`}
      </span>
      <IconButton label="Rotate" shortcut="R" onClick={() => turn(catalogue)}>
        <RotateCw size={16} />
      </IconButton>
      <IconButton label="Mirror" shortcut="M" onClick={() => mirror(catalogue)}>
        <FlipHorizontal2 size={16} />
      </IconButton>
      <IconButton label="Align in a row" onClick={() => align("row", catalogue)}>
        <AlignVerticalJustifyCenter size={16} />
      </IconButton>
      <IconButton label="Align in a column" onClick={() => align("column", catalogue)}>
        <AlignHorizontalJustifyCenter size={16} />
      </IconButton>
      <IconButton label="Space evenly" disabled={parts < 3} onClick={() => space(catalogue)}>
        <GripHorizontal size={16} />
      </IconButton>
      <IconButton label="Duplicate" shortcut="Ctrl D" onClick={() => duplicate(catalogue)}>
        <CopyPlus size={16} />
      </IconButton>
      <IconButton label="Make a block" onClick={() => void makeBlock(catalogue)}>
        <Box size={16} />
      </IconButton>
      <IconButton label="Remove" shortcut="Delete" onClick={() => remove(catalogue)}>
        <Trash2 size={16} />
      </IconButton>
    </div>
  );
}
