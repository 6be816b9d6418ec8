// A figure taken from a run into the ledger, with the conditions it held under.
import type { Exercise, Figure, Run, RunLook } from "../api/types";
import { turnTo } from "../document/address";
import { isSame } from "../document/figures";
import { useExercise } from "../document/store";
import { PLAIN_ROW } from "../schematic/editor/ledger";
import { freshId } from "../schematic/model/wires";
import { say } from "../ui/Toasts";

export interface Takeable {
  /** A short textbook name, to begin with. */
  symbol: string;
  label: string;
  value: number;
  unit: string;
  /** What was measured stands in the bench column, where its record tells it. */
  isMeasured?: boolean;
  /** What it is of, by the id of the run. */
  of(run: string): Figure;
}

/** What a figure is called in the ledger: its symbol, numbered where that is taken. */
export function freeName(symbol: string, document: Exercise): string {
  const used = new Set([
    ...document.ledger.map((row) => row.name),
    ...document.parameters.map((parameter) => parameter.name),
    ...document.schematic.parts.map((part) => part.name),
    ...document.schematic.labels.map((label) => `V_${label.name}`),
  ]);
  const name = symbol.replace(/[^A-Za-z0-9_.]+/g, "_").replace(/^[^A-Za-z]+/, "") || "x";
  if (!used.has(name)) return name;
  // f_0 is followed by f_0b, T by T_2.
  for (let k = 2; ; k++) {
    const next = name.includes("_") ? `${name}${(k + 9).toString(36)}` : `${name}_${k}`;
    if (!used.has(next)) return next;
  }
}

/** Into the ledger; taken again it takes the place of what was there. */
export function take(taken: Takeable, run: Run, look: RunLook): void {
  let name = "";
  const figure = taken.of(run.id);
  useExercise.getState().edit((document) => {
    const known = document.ledger.find((row) => isSame(row.figure, figure));
    name = known?.name ?? freeName(taken.symbol, document);
    const pinned = taken.isMeasured
      ? null
      : {
          value: taken.value,
          unit: taken.unit,
          conditions: look.conditions,
          fingerprint: look.circuit,
        };
    if (known) Object.assign(known, { label: taken.label, ...(pinned && { pinned }) });
    else
      document.ledger.push({
        id: freshId("t", document.ledger),
        name,
        figure,
        label: taken.label,
        ...PLAIN_ROW,
        pinned,
      });
  });
  say(`${name}, ${taken.label}, is in the ledger (Compare).`, {
    label: "Show it",
    run: () => turnTo("compare"),
  });
}
