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
import { CommandButton } from "../../ui/Button";
import { useSheetCommands } from "../editor/commands";
import { useShape } from "../editor/shape";
import { useEditorStore } from "../editor/tools";

export function ChosenBar() {
  const commands = useSheetCommands();
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
      <CommandButton of={commands.rotate}>
        <RotateCw size={16} />
      </CommandButton>
      <CommandButton of={commands.mirror}>
        <FlipHorizontal2 size={16} />
      </CommandButton>
      <CommandButton of={commands.row}>
        <AlignVerticalJustifyCenter size={16} />
      </CommandButton>
      <CommandButton of={commands.column}>
        <AlignHorizontalJustifyCenter size={16} />
      </CommandButton>
      <CommandButton of={commands.space} disabled={parts < 3}>
        <GripHorizontal size={16} />
      </CommandButton>
      <CommandButton of={commands.duplicate}>
        <CopyPlus size={16} />
      </CommandButton>
      <CommandButton of={commands.block}>
        <Box size={16} />
      </CommandButton>
      <CommandButton of={commands.remove}>
        <Trash2 size={16} />
      </CommandButton>
    </div>
  );
}
