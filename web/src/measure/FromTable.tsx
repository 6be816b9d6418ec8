// A table from elsewhere, typed, pasted or dropped: what was understood of it, changed where it is otherwise.
import { FileUp, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState } from "react";
import type { ReadTable } from "../api/types";
import { Button, IconButton } from "../ui/Button";
import { chooseFile } from "../ui/chooseFile";
import { Sketch } from "./Sketch";
import { field, TableChoices } from "./TableChoices";
import { type TableReading, useTableReading } from "./tableReading";

export function FromTable({ open, onClose }: { open: boolean; onClose(): void }) {
  return (
    <Dialog.Root open={open} modal={false} onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <div aria-hidden="true" className="fixed inset-0 z-30 bg-ink/20" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-40 flex max-h-[92%] w-[56rem] max-w-[96%] -translate-x-1/2 -translate-y-1/2 flex-col rounded-xl border border-hairline bg-raised shadow-card outline-none"
        >
          <div className="flex items-center border-b border-hairline py-1.5 pr-2 pl-4">
            <Dialog.Title className="grow font-serif text-lg">Record from a table</Dialog.Title>
            <IconButton label="Close" shortcut="Esc" onClick={onClose}>
              <X size={17} />
            </IconButton>
          </div>
          <div className="min-h-0 overflow-y-auto p-4">
            <Reader onDone={onClose} />
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Reader({ onDone }: { onDone(): void }) {
  const reading = useTableReading(onDone);
  const { table, look, trouble, isReading } = reading;
  return (
    <div
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const [file] = event.dataTransfer.files;
        if (file) reading.take(file);
      }}
      role="group"
      aria-label="Table"
    >
      {!table && <Source reading={reading} />}
      {trouble && (
        <p role="alert" className="mt-3 rounded-md bg-fault-wash px-3 py-2 text-sm text-fault">
          {trouble}
        </p>
      )}
      {isReading && !look && <p className="mt-3 text-soft">Reading …</p>}
      {table && trouble && !look && (
        <Button className="mt-3" onClick={reading.putAway}>
          Another table
        </Button>
      )}
      {look && table && <Understood reading={reading} look={look} name={table.name} />}
    </div>
  );
}

/** Where a table is pasted, or its file chosen. */
function Source({ reading }: { reading: TableReading }) {
  const [text, setText] = useState("");
  return (
    <>
      <p className="text-soft">
        Paste a table, with columns named by quantity and unit; or drop a file here that an
        instrument or a spreadsheet wrote.
      </p>
      <textarea
        aria-label="Table"
        value={text}
        rows={9}
        spellCheck={false}
        placeholder={"f [Hz]; V_in [V]; V_out [V]\n100; 1,00; 0,98\n1000; 1,00; 0,71"}
        onChange={(event) => setText(event.target.value)}
        className={`${field} figure mt-2 block w-full`}
      />
      <div className="mt-2 flex gap-2">
        <Button
          look="solid"
          disabled={!text.trim()}
          onClick={() => reading.begin(new Blob([text]), "Table")}
        >
          Read it
        </Button>
        <Button
          onClick={() =>
            chooseFile(
              reading.take,
              "Table of measured values",
              ".csv,.tsv,.txt,.dat,text/csv,text/plain",
            )
          }
        >
          <FileUp size={15} /> File …
        </Button>
      </div>
    </>
  );
}

/** What was read in it, sketched, to be kept. */
function Understood(props: { reading: TableReading; look: ReadTable; name: string }) {
  const { reading, look, name } = props;
  return (
    <div className="grid grid-cols-1 gap-4 md:grid-cols-[1fr_18rem]">
      <div className="min-w-0">
        <label className="block text-xs font-medium text-soft">
          Name
          <input
            value={name}
            maxLength={120}
            onChange={(event) => reading.rename(event.target.value)}
            className={`${field} mt-1 block w-full`}
          />
        </label>
        <TableChoices reading={reading} look={look} />
        {look.problem && (
          <p role="alert" className="mt-2 text-sm text-fault">
            {look.problem}
          </p>
        )}
        <p className="mt-2 text-xs text-soft">
          {look.rows.toLocaleString("en")} rows. {look.notes.join(" ")}
        </p>
      </div>
      <Sketch columns={look.columns} />
      <div className="flex gap-2 md:col-span-2">
        <Button
          look="solid"
          disabled={Boolean(look.problem) || reading.isReading}
          onClick={reading.keep}
        >
          Keep as a record
        </Button>
        <Button onClick={reading.putAway}>Another table</Button>
      </div>
    </div>
  );
}
