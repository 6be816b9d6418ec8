// A recorded waveform: a column of a table of values becomes what a source does in time.
import { FileUp } from "lucide-react";
import { useState } from "react";
import { api, ask } from "../../api/client";
import type { Recorded } from "../../api/types";
import { chooseFile } from "../../ui/chooseFile";
import { Pill } from "../../ui/Pill";
import { say } from "../../ui/Toasts";

const LARGEST = 4_000_000; // bytes, as the server reads

export function FromTable({ onRead }: { onRead(source: Recorded): void }) {
  const [table, setTable] = useState<{ text: string; read: Recorded } | null>(null);
  const read = async (text: string, column: number | null) => {
    try {
      const found = await ask<Recorded>(api.POST("/api/recorded", { body: { text, column } }));
      setTable({ text, read: found });
      onRead(found);
    } catch (error) {
      say((error as Error).message);
    }
  };
  return (
    <div className="mt-2 text-xs text-soft">
      <Pill
        onClick={() =>
          chooseFile(
            async (file) => {
              if (file.size > LARGEST) say(`${file.name} is larger than 4 MB.`);
              else await read(await file.text(), null);
            },
            "Table of recorded values",
            ".csv,.tsv,.txt,text/csv,text/plain",
          )
        }
      >
        <FileUp size={13} className="mr-1 inline" />
        From a CSV file …
      </Pill>
      {table && table.read.columns.length > 2 && (
        <label className="mt-1.5 flex items-center gap-2">
          Column
          <select
            value={table.read.column}
            onChange={(event) => void read(table.text, Number(event.target.value))}
            className="min-w-0 grow rounded-md border border-edge bg-paper px-1.5 py-1 text-ink"
          >
            {table.read.columns.map(
              (name, k) =>
                k > 0 && (
                  <option key={name} value={k}>
                    {name}
                  </option>
                ),
            )}
          </select>
        </label>
      )}
      {table?.read.notes.map((note) => (
        <p key={note} className="mt-1">
          {note}
        </p>
      ))}
    </div>
  );
}
