// The ledger as columns for the clipboard.
import type { CaseLedger, LedgerColumn, RowLook } from "../api/types";

/** The heads, then a line for each figure of each case. */
export function linesOf(columns: LedgerColumn[], ledgers: CaseLedger[]): string[][] {
  const lines = ledgers.flatMap(({ name, rows }) =>
    rows.map((row) => columns.map((column) => cellOf(column, row, name))),
  );
  return [columns.map(({ head }) => head), ...lines];
}

function cellOf({ path, is_spread }: LedgerColumn, row: RowLook, inCase: string): string {
  if (path.join() === "case") return inCase;
  // biome-ignore lint/suspicious/noExplicitAny: the path leads to whatever stands there
  const found = path.reduce<any>((held, step) => held?.[step], row) ?? "";
  return is_spread && !found ? "" : `${found}`;
}

export const columnsOf = (lines: string[][]) => lines.map((line) => line.join("\t")).join("\n");
