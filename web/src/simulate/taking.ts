// A figure taken from a run into the ledger, with the conditions it held under.
import type { Exercise, Run, RunLook } from "../api/types";
import { useExercise } from "../exercise/store";
import { freshId } from "../schematic/wires";
import { say } from "../ui/Toasts";

export interface Takeable {
  /** A short textbook name, to begin with. */
  symbol: string;
  label: string;
  value: number;
  unit: string;
}

/** What a figure is called in the ledger: its symbol, numbered where that is taken. */
export function freeName(symbol: string, document: Exercise): string {
  const used = new Set([
    ...document.taken.map((figure) => figure.name),
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
export function take(figure: Takeable, run: Run, look: RunLook): void {
  let name = "";
  useExercise.getState().edit((document) => {
    const known = document.taken.find(
      (other) => other.run === run.name && other.label === figure.label,
    );
    name = known?.name ?? freeName(figure.symbol, document);
    const told = {
      label: figure.label,
      value: figure.value,
      unit: figure.unit,
      run: run.name,
      conditions: look.conditions,
      circuit: look.circuit,
    };
    if (known) Object.assign(known, told);
    else document.taken.push({ id: freshId("t", document.taken), name, ...told });
  });
  say(`${name}, ${figure.label}, is in the ledger (Compare).`);
}
