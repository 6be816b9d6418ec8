// A table from elsewhere, typed, pasted or dropped: what was understood of it, changed where it is otherwise.
import { FileUp, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { type DragEvent, useEffect, useRef, useState } from "react";
import { askWithFile } from "../api/client";
import type { ColumnChoice, ReadTable } from "../api/types";
import { newRecord, useBench } from "../bench/bench";
import { useExercise } from "../document/store";
import { freshId } from "../schematic/model/wires";
import { Button, IconButton } from "../ui/Button";
import { chooseFile } from "../ui/chooseFile";
import { Sketch } from "./Sketch";

const LARGEST = 64_000_000; // bytes, as the server reads
const GIVEN = ["value", "peak to peak", "RMS", "dB", "degrees", "radians", "uncertainty", "unused"];
const PARTED = [
  [";", "semicolons"],
  [",", "commas"],
  ["\t", "tabs"],
  [" ", "spaces"],
] as const;
const field =
  "rounded-md border border-edge bg-paper px-1.5 py-1 text-sm text-ink focus:border-accent focus:outline-2 focus:outline-accent";

interface Told {
  delimiter: string;
  decimal: string;
  interval: string;
  uncertainty: string;
  columns: ColumnChoice[];
}
const UNTOLD: Told = { delimiter: "", decimal: "", interval: "", uncertainty: "", columns: [] };

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
  const [table, setTable] = useState<{ file: Blob; name: string } | null>(null);
  const [text, setText] = useState("");
  const [told, setTold] = useState<Told>(UNTOLD);
  const [look, setLook] = useState<ReadTable | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [isReading, setReading] = useState(false);
  const asked = useRef(0);
  const known = useExercise((state) => state.look?.quantities.map(({ name }) => name).join() ?? "");
  useEffect(() => {
    if (!table) return;
    asked.current += 1;
    const own = asked.current;
    setReading(true);
    const words = { choices: JSON.stringify(told), known };
    askWithFile<ReadTable>("/api/table", table.file, words)
      .then(
        (answer) => {
          if (own !== asked.current) return;
          setLook(answer);
          setTrouble(null);
        },
        (error: Error) => own === asked.current && setTrouble(error.message),
      )
      .finally(() => own === asked.current && setReading(false));
  }, [table, told, known]);
  const take = (file: File) => {
    if (file.size > LARGEST) {
      setTrouble(
        `${file.name} is larger than 64 MB. Export a shorter part of it, or fewer points.`,
      );
      return;
    }
    begin(file, file.name.replace(/\.\w+$/, ""));
  };
  const begin = (file: Blob, name: string) => {
    setLook(null);
    setTold(UNTOLD);
    setTable({ file, name });
  };
  // What was told stands, though the answer to it may be on its way still.
  const columnsOf = (before: Told) => {
    const read = look?.choices ?? [];
    return before.columns.length === read.length ? before.columns : read;
  };
  const change = (to: Partial<Told>) =>
    setTold((before) => ({ ...before, columns: columnsOf(before), ...to }));
  const changeColumn = (k: number, to: Partial<ColumnChoice>) =>
    setTold((before) => ({
      ...before,
      columns: columnsOf(before).map((c, n) => (n === k ? { ...c, ...to } : c)),
    }));
  const keep = () => {
    if (!look || !table) return;
    const { document, edit } = useExercise.getState();
    const id = freshId("m", document.records);
    edit((draft) => {
      draft.records.push({ ...newRecord(id, table.name), columns: look.columns });
    });
    useBench.setState({ record: id });
    onDone();
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    const [file] = event.dataTransfer.files;
    if (file) take(file);
  };
  return (
    <div
      onDragOver={(event) => event.preventDefault()}
      onDrop={drop}
      role="group"
      aria-label="Table"
    >
      {!table && (
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
              onClick={() => begin(new Blob([text]), "Table")}
            >
              Read it
            </Button>
            <Button
              onClick={() =>
                chooseFile(
                  take,
                  "Table of measured values",
                  ".csv,.tsv,.txt,.dat,text/csv,text/plain",
                )
              }
            >
              <FileUp size={15} /> File …
            </Button>
          </div>
        </>
      )}
      {trouble && (
        <p role="alert" className="mt-3 rounded-md bg-fault-wash px-3 py-2 text-sm text-fault">
          {trouble}
        </p>
      )}
      {isReading && !look && <p className="mt-3 text-soft">Reading …</p>}
      {table && trouble && !look && (
        <Button className="mt-3" onClick={() => setTable(null)}>
          Another table
        </Button>
      )}
      {look && table && (
        <div className="grid grid-cols-1 gap-4 md:grid-cols-[1fr_18rem]">
          <div className="min-w-0">
            <label className="block text-xs font-medium text-soft">
              Name
              <input
                value={table.name}
                maxLength={120}
                onChange={(event) => setTable({ ...table, name: event.target.value })}
                className={`${field} mt-1 block w-full`}
              />
            </label>
            <div className="mt-2 flex flex-wrap gap-3 text-xs font-medium text-soft">
              <label>
                Columns parted by
                <select
                  value={look.delimiter}
                  onChange={(event) => change({ delimiter: event.target.value, columns: [] })}
                  className={`${field} mt-1 block`}
                >
                  {PARTED.map(([mark, words]) => (
                    <option key={words} value={mark}>
                      {words}
                    </option>
                  ))}
                </select>
              </label>
              <label>
                Decimal sign
                <select
                  value={look.decimal}
                  onChange={(event) => change({ decimal: event.target.value, columns: [] })}
                  className={`${field} mt-1 block`}
                >
                  <option value=".">point</option>
                  <option value=",">comma</option>
                </select>
              </label>
              <label title="Where no column says when: from one row to the next.">
                Sample interval
                <input
                  value={told.interval || look.interval}
                  placeholder="in the first column"
                  onChange={(event) => change({ interval: event.target.value, columns: [] })}
                  className={`${field} figure mt-1 block w-32`}
                />
              </label>
              <label title="From the instrument's statement: 2 %, or 10 mV.">
                Uncertainty
                <input
                  value={told.uncertainty}
                  placeholder="2 %"
                  onChange={(event) => change({ uncertainty: event.target.value })}
                  className={`${field} figure mt-1 block w-24`}
                />
              </label>
            </div>
            <table className="mt-3 w-full text-left text-sm">
              <caption className="sr-only">What the columns are</caption>
              <thead className="text-xs text-soft">
                <tr>
                  <th className="py-1 pr-2 font-medium">Column</th>
                  <th className="pr-2 font-medium">Is of</th>
                  <th className="pr-2 font-medium">Unit</th>
                  <th className="pr-2 font-medium">Given as</th>
                  <th className="font-medium">First values</th>
                </tr>
              </thead>
              <tbody>
                {look.choices.map((choice, k) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: columns have nothing else to be known by
                  <tr key={k} className="border-t border-ruling align-baseline">
                    <td className="max-w-40 truncate py-1 pr-2">{choice.name}</td>
                    <td className="pr-2">
                      <input
                        aria-label={`Column ${k + 1} is of`}
                        value={choice.quantity}
                        list="known quantities"
                        aria-invalid={Boolean(choice.problem)}
                        onChange={(event) => changeColumn(k, { quantity: event.target.value })}
                        className={`${field} figure w-32 italic aria-invalid:border-fault`}
                      />
                    </td>
                    <td className="pr-2">
                      <input
                        aria-label={`Unit of column ${k + 1}`}
                        value={choice.unit}
                        onChange={(event) => changeColumn(k, { unit: event.target.value })}
                        className={`${field} w-14`}
                      />
                    </td>
                    <td className="pr-2">
                      <select
                        aria-label={`Column ${k + 1} is given as`}
                        value={choice.given}
                        onChange={(event) =>
                          changeColumn(k, {
                            given: event.target.value,
                            of: event.target.value === "uncertainty" ? k - 1 : -1,
                          })
                        }
                        className={field}
                      >
                        {GIVEN.map((words) => (
                          <option key={words}>{words}</option>
                        ))}
                      </select>
                    </td>
                    <td className="figure text-soft">
                      {look.sample
                        .slice(0, 3)
                        .map((row) => row[k])
                        .join(", ")}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <datalist id="known quantities">
              {["t", "f", ...known.split(",")].map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
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
            <Button look="solid" disabled={Boolean(look.problem) || isReading} onClick={keep}>
              Keep as a record
            </Button>
            <Button onClick={() => setTable(null)}>Another table</Button>
          </div>
        </div>
      )}
    </div>
  );
}
