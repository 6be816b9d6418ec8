// The ledger as columns for the clipboard.
import type { CaseLedger, RowLook } from "../api/types";

const HEAD = [
  "figure", "case", "unit", "hand", "hand ±", "simulated", "simulated ±", "bench", "bench ±", "verdict",
]; // biome-ignore format: a table

export function linesOf(ledgers: CaseLedger[]): string[][] {
  const lines = ledgers.flatMap(({ name, rows }) => rows.map((row) => lineOf(row, name)));
  return [HEAD, ...lines];
}

const lineOf = (row: RowLook, inCase: string): string[] => [
  row.quantity,
  inCase,
  row.unit,
  ...row.numbers.flatMap((told) => (told ? [`${told[0]}`, told[1] ? `${told[1]}` : ""] : ["", ""])),
  row.verdict,
];

export const columnsOf = (lines: string[][]) => lines.map((line) => line.join("\t")).join("\n");
