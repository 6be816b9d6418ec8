// A node's name, and how it is drawn.
import { ArrowUpToLine, Trash2 } from "lucide-react";
import { useEffect, useId } from "react";
import type { Label } from "../../../api/types";
import { rename } from "../../../document/rename";
import { sheetOf, useExercise } from "../../../document/store";
import { IconButton } from "../../../ui/Button";
import { frame } from "../../../ui/Field";
import { NameField } from "../../../ui/NameField";
import { say } from "../../../ui/Toasts";
import { remove } from "../../editor/actions";
import { useCatalogue } from "../../editor/catalogue";
import { useEditorStore } from "../../editor/tools";

/** Whether another place bears this name: the same name joins them. */
function isElsewhere(label: Label, name: string): boolean {
  const { document, inside } = useExercise.getState();
  return sheetOf(document, inside).labels.some((l) => l.id !== label.id && l.name === name);
}

/** The node's name, wherever it is spoken of; or that of this place alone, where the name it had or gets
 * is another's too: that parts or joins nodes. */
async function renameNode(label: Label, name: string): Promise<void> {
  const { inside, editSheet } = useExercise.getState();
  const group = `name ${label.id}`;
  if (!isElsewhere(label, label.name) && !isElsewhere(label, name))
    return rename([{ what: "node", which: label.name, name, sheet: inside ?? "" }], group);
  editSheet((schematic) => {
    const item = schematic.labels.find((candidate) => candidate.id === label.id);
    if (item) item.name = name;
  }, group);
}

export function NodeFields({ label }: { label: Label }) {
  useEffect(() => useEditorStore.getState().choose([label.id]), [label.id]);
  const field = useId();
  const catalogue = useCatalogue();
  return (
    <div className="flex items-end gap-2">
      <div className="grow">
        <label htmlFor={field} className="block text-xs font-medium text-soft">
          Node name
        </label>
        <NameField
          id={field}
          data-first
          value={label.name}
          maxLength={32}
          onGive={(name) => renameNode(label, name)}
          waits={(name) => isElsewhere(label, name)}
          onRefused={say}
          className={`${frame} font-serif italic`}
        />
      </div>
      <IconButton
        label={label.style === "supply" ? "Draw it as a name" : "Draw it as a supply"}
        aria-pressed={label.style === "supply"}
        onClick={() =>
          useExercise.getState().editSheet((schematic) => {
            const item = schematic.labels.find((candidate) => candidate.id === label.id);
            if (item) item.style = label.style === "supply" ? "name" : "supply";
          })
        }
      >
        <ArrowUpToLine size={17} />
      </IconButton>
      <IconButton label="Remove the name" shortcut="Delete" onClick={() => remove(catalogue)}>
        <Trash2 size={17} />
      </IconButton>
    </div>
  );
}
