// What is written into the ledger: readings, hand values, rows of one's own, notes on them.
import type { Exercise, LedgerEntry, Measurement, RowLook } from "../api/types";
import { isSame } from "../document/figures";
import { useExercise } from "../document/store";
import { freeName } from "../plots/taking";
import { PLAIN_ROW } from "../schematic/editor/ledger";
import { freshId } from "../schematic/model/wires";

const edit = useExercise.getState().edit;

/** The reading that the ledger judges, or the last of that figure where none is written yet. */
export function readingOf(
  { measurements }: Exercise,
  row: RowLook,
  inCase: string,
): Measurement | undefined {
  const judged = measurements.find((each) => each.id === row.measurement);
  const figure = { ...row.figure, case: inCase };
  return judged ?? measurements.filter((each) => isSame(each.figure, figure)).at(-1);
}

/** A reading of a row in a case, as it is typed. */
export function writeReading(row: RowLook, inCase: string, text: string): void {
  edit((document) => {
    const existing = readingOf(document, row, inCase);
    if (existing) existing.text = text;
    else
      document.measurements.push({
        id: freshId("b", document.measurements),
        figure: { ...row.figure, case: inCase },
        text,
        note: "",
      });
  }, `bench ${row.quantity} ${inCase}`);
}

const targetOf = (text: string) =>
  (text.includes("=") ? text.slice(0, text.indexOf("=")) : "").trim();

/** The line of working that gives a figure in one case alone. */
export const handLineOf = ({ hand }: Exercise, name: string, inCase: string) =>
  hand.find((line) => line.case === inCase && targetOf(line.text) === name);

/** A hand value of a row in a case, as it is typed; empty, the line goes. */
export function writeByHand(name: string, inCase: string, text: string): void {
  edit((document) => {
    const existing = handLineOf(document, name, inCase);
    if (!text.trim()) {
      document.hand = document.hand.filter((line) => line.id !== existing?.id);
    } else if (existing) existing.text = `${name} = ${text}`;
    else
      document.hand.push({
        id: freshId("h", document.hand),
        text: `${name} = ${text}`,
        case: inCase,
        role: "line",
      });
  }, `hand ${name} ${inCase}`);
}

/** A row for a formula of other figures, "A_v = V_out.pp/V_in.pp". What is wrong with it; null where it is
 * there now. */
export function addFormulaRow(text: string): string | null {
  const { document } = useExercise.getState();
  const at = text.indexOf("=");
  const formula = text.slice(at + 1).trim();
  if (!formula) return "Write a name, = and a formula of other figures: A_v = V_out.pp/V_in.pp";
  const asked = at >= 0 ? text.slice(0, at).trim() : "";
  if (at >= 0 && !/^[A-Za-z][A-Za-z0-9_]*$/.test(asked))
    return "A name begins with a letter; letters, digits and _ may follow";
  if (asked && document.ledger.some((row) => row.name === asked))
    return `A row called ${asked} is there already`;
  const name = asked || freeName("x", document);
  edit((draft) => {
    draft.ledger.push({
      id: freshId("t", draft.ledger),
      name,
      figure: { of: "formula", formula, case: "" },
      label: "",
      ...PLAIN_ROW,
      pinned: null,
    });
  });
  return null;
}

export function changeRow(id: string, to: (row: LedgerEntry) => void, group?: string): void {
  edit((document) => {
    const row = document.ledger.find((each) => each.id === id);
    if (row) to(row);
  }, group);
}

export function removeRow(id: string): void {
  edit((document) => {
    document.ledger = document.ledger.filter((each) => each.id !== id);
  });
}

/** One place up or down among the document's own rows. */
export function moveRow(id: string, by: -1 | 1): void {
  edit((document) => {
    const at = document.ledger.findIndex((row) => row.id === id);
    const [row] = document.ledger.splice(at, 1);
    if (row) document.ledger.splice(Math.max(0, at + by), 0, row);
  });
}
