// A table on its way to become a record: what the server read in it, and what it is told of it instead.
import { useEffect, useRef, useState } from "react";
import { askWithFile } from "../api/client";
import type { ColumnChoice, ReadTable } from "../api/types";
import { newRecord, useBench } from "../bench/bench";
import { useExercise } from "../document/store";
import { freshId } from "../schematic/model/wires";

const LARGEST = 64_000_000; // bytes, as the server reads

/** What a person says of the table; "" and nothing where the server finds it out. */
interface Told {
  delimiter: string;
  decimal: string;
  interval: string;
  uncertainty: string;
  columns: ColumnChoice[];
}
const UNTOLD: Told = { delimiter: "", decimal: "", interval: "", uncertainty: "", columns: [] };

export type TableReading = ReturnType<typeof useTableReading>;

export function useTableReading(onDone: () => void) {
  const [table, setTable] = useState<{ file: Blob; name: string } | null>(null);
  const [told, setTold] = useState<Told>(UNTOLD);
  const [look, setLook] = useState<ReadTable | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [isReading, setReading] = useState(false);
  const asked = useRef(0);
  const known = useExercise((state) => state.look?.quantities.map(({ name }) => name).join() ?? "");
  const file = table?.file;
  useEffect(() => {
    if (!file) return;
    asked.current += 1;
    const own = asked.current;
    setReading(true);
    const words = { choices: JSON.stringify(told), known };
    askWithFile<ReadTable>("/api/table", file, words)
      .then(
        (answer) => {
          if (own !== asked.current) return;
          setLook(answer);
          setTrouble(null);
        },
        (error: Error) => own === asked.current && setTrouble(error.message),
      )
      .finally(() => own === asked.current && setReading(false));
  }, [file, told, known]);
  const begin = (read: Blob, name: string) => {
    setLook(null);
    setTold(UNTOLD);
    setTable({ file: read, name });
  };
  // What was told stands, though the answer to it may be on its way still.
  const columnsOf = (before: Told) => {
    const read = look?.choices ?? [];
    return before.columns.length === read.length ? before.columns : read;
  };
  return {
    table,
    told,
    look,
    trouble,
    isReading,
    /** Names of quantities that a column may be of. */
    known: ["t", "f", ...known.split(",").filter(Boolean)],
    begin,
    take(dropped: File) {
      if (dropped.size > LARGEST)
        setTrouble(
          `${dropped.name} is larger than 64 MB. Export a shorter part of it, or fewer points.`,
        );
      else begin(dropped, dropped.name.replace(/\.\w+$/, ""));
    },
    rename: (name: string) => table && setTable({ ...table, name }),
    putAway: () => setTable(null),
    change: (to: Partial<Told>) =>
      setTold((before) => ({ ...before, columns: columnsOf(before), ...to })),
    changeColumn: (k: number, to: Partial<ColumnChoice>) =>
      setTold((before) => ({
        ...before,
        columns: columnsOf(before).map((c, n) => (n === k ? { ...c, ...to } : c)),
      })),
    keep() {
      if (!look || !table) return;
      const { document, edit } = useExercise.getState();
      const id = freshId("m", document.records);
      edit((draft) => {
        draft.records.push({ ...newRecord(id, table.name), columns: look.columns });
      });
      useBench.setState({ record: id });
      onDone();
    },
  };
}
