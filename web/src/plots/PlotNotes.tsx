// Words tied to places of curves, listed below the plots.
import { X } from "lucide-react";
import type { Run } from "../api/types";
import { engineering } from "../ui/engineering";
import { Named } from "../ui/Named";
import { changeRun } from "./changeRun";

export function PlotNotes({ run, unit }: { run: Run; unit: string }) {
  if (!run.notes.length) return null;
  const remove = (id: string) =>
    changeRun(run.id, (own) => {
      own.notes = own.notes.filter((other) => other.id !== id);
    });
  return (
    <ul aria-label="Notes on the plots" className="mt-2 space-y-0.5 text-sm">
      {run.notes.map((note) => (
        <li key={note.id} className="flex items-baseline gap-2">
          <span className="text-soft">
            <Named text={note.member ? `${note.curve}, ${note.member}` : note.curve} /> at{" "}
            {engineering(note.at, unit)}
          </span>
          <span className="grow">{note.text}</span>
          <button
            type="button"
            aria-label={`Remove the note ${note.text}`}
            onClick={() => remove(note.id)}
            className="rounded-full p-0.5 text-soft hover:bg-ruling print:hidden"
          >
            <X size={13} />
          </button>
        </li>
      ))}
    </ul>
  );
}
