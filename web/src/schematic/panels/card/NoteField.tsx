// A text on the drawing.
import { Trash2 } from "lucide-react";
import { useEffect } from "react";
import type { Note } from "../../../api/types";
import { useExercise } from "../../../document/store";
import { IconButton } from "../../../ui/Button";
import { LongField } from "../../../ui/Field";
import { remove } from "../../editor/actions";
import { useCatalogue } from "../../editor/catalogue";
import { useEditorStore } from "../../editor/tools";

export function NoteField({ note }: { note: Note }) {
  useEffect(() => useEditorStore.getState().choose([note.id]), [note.id]);
  const catalogue = useCatalogue();
  return (
    <>
      <LongField
        label="Note"
        data-first
        autoFocus
        rows={4}
        value={note.text}
        maxLength={1000}
        placeholder="Text; a formula between dollar signs, as in $f_c = 1/(2\\pi RC)$"
        onChange={(event) =>
          useExercise.getState().editSheet((schematic) => {
            const item = schematic.notes.find((candidate) => candidate.id === note.id);
            if (item) item.text = event.target.value;
          }, `note ${note.id}`)
        }
      />
      <div className="mt-2 flex justify-end">
        <IconButton label="Remove the note" shortcut="Delete" onClick={() => remove(catalogue)}>
          <Trash2 size={17} />
        </IconButton>
      </div>
    </>
  );
}
