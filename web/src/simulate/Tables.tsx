// Results that are tables, bars or formulas: operating points, phasors, harmonics, transfer functions.
import { ArrowDown, ArrowUp } from "lucide-react";
import { memo, useState } from "react";
import type { RunLook, TableLook } from "../api/types";
import type { Takeable } from "../plots/taking";
import { Formula } from "../ui/Formula";
import { Pill } from "../ui/Pill";

interface Order {
  column: number;
  falls: boolean;
}

type Row = TableLook["rows"][number];

/** By value where there are values, else by the words; what is empty comes last. */
export function sorted(rows: Row[], order: Order | null): Row[] {
  if (!order) return rows;
  const sign = order.falls ? -1 : 1;
  return [...rows].sort((a, b) => {
    const [one, other] = [a.cells[order.column], b.cells[order.column]];
    if (!one?.text || !other?.text) return one?.text ? -1 : other?.text ? 1 : 0;
    if (one.value != null && other.value != null) return sign * (one.value - other.value);
    return sign * one.text.localeCompare(other.text, undefined, { numeric: true });
  });
}

const LETTERS: Record<string, string> = {
  V: "V",
  A: "I",
  W: "P",
  Hz: "f",
  s: "t",
  Ω: "Z",
  "%": "d",
};

export const Tables = memo(function Tables({
  tables,
  onTake,
}: {
  tables: TableLook[];
  onTake(figure: Takeable): void;
}) {
  return tables.map((table) => <Sortable key={table.title} table={table} onTake={onTake} />);
});

function Sortable({ table, onTake }: { table: TableLook; onTake(figure: Takeable): void }) {
  const [order, setOrder] = useState<Order | null>(null);
  const turn = (column: number) =>
    setOrder((old) =>
      old?.column !== column
        ? { column, falls: false }
        : old.falls
          ? null
          : { column, falls: true },
    );
  return (
    <section className="mt-4">
      {table.title && <h3 className="font-serif text-lg">{table.title}</h3>}
      <div className="overflow-x-auto">
        <table
          className="w-full text-sm"
          aria-label={table.title || table.head.map(({ text }) => text).join(" ")}
        >
          <thead>
            <tr className="border-b border-hairline text-left text-soft">
              {table.head.map(({ key, text: name }, k) => {
                const falls = order?.column === k ? order.falls : null;
                return (
                  <th
                    key={key}
                    aria-sort={falls === null ? "none" : falls ? "descending" : "ascending"}
                    className={`py-1 pr-3 font-medium ${k ? "text-right" : ""}`}
                  >
                    {name && (
                      <button
                        type="button"
                        onClick={() => turn(k)}
                        className="inline-flex items-center gap-1 hover:text-ink"
                      >
                        {name}
                        {falls === false && <ArrowUp size={12} aria-hidden="true" />}
                        {falls === true && <ArrowDown size={12} aria-hidden="true" />}
                      </button>
                    )}
                  </th>
                );
              })}
            </tr>
          </thead>
          <tbody>
            {sorted(table.rows, order).map((row) => (
              <tr
                key={row.cells.map((cell) => cell.text).join()}
                className="border-b border-ruling"
              >
                {row.cells.map((cell, k) => (
                  <td
                    key={table.head[k]?.key}
                    className={`py-1 pr-3 align-top ${k ? "figure text-right text-simulated" : "font-serif italic"}`}
                  >
                    {cell.value == null ? (
                      cell.text
                    ) : (
                      <button
                        type="button"
                        title="Add to the ledger"
                        aria-label={`${cell.text}, add to the ledger`}
                        onClick={() => onTake(takeable(table, row, k))}
                        className="min-h-6 min-w-6 decoration-dotted underline-offset-3 hover:underline"
                      >
                        {cell.text}
                      </button>
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

/** A figure of a table, told by what stands at the head of its row and column. */
function takeable(table: TableLook, row: Row, k: number): Takeable {
  const cell = row.cells[k] as Row["cells"][number];
  const { key, text: column } = table.head[k] as TableLook["head"][number];
  const of = row.cells[0]?.text ?? "";
  const subject = /^[A-Za-z]\w*(\.\w+)?$/.test(of) ? of : column;
  const label = [column === "value" ? "" : column, of, table.title].filter(Boolean).join(", ");
  return {
    symbol: `${LETTERS[cell.unit] ?? "x"}_${subject}`,
    label,
    value: cell.value as number,
    unit: cell.unit,
    of: (run) => ({
      of: "cell",
      run,
      table: table.key,
      subject: row.subject,
      row: row.key,
      column: key,
      member: row.member,
      case: "",
    }),
  };
}

/** Harmonics side by side, each as tall as it is large beside the largest. */
export const Bars = memo(function Bars({ bars }: { bars: RunLook["bars"] }) {
  if (!bars.length) return null;
  return (
    <ol
      aria-label="Harmonics"
      className="mt-4 flex h-44 items-end gap-2 rounded-md bg-raised px-4 pt-6 pb-1"
    >
      {bars.map((bar) => (
        <li key={bar.label} className="flex h-full min-w-0 grow flex-col justify-end text-center">
          <span className="figure truncate text-xs text-soft">{bar.text}</span>
          <span
            aria-hidden="true"
            className="mx-auto w-3/5 max-w-8 rounded-t-sm bg-simulated"
            style={{ height: `${Math.max(bar.share * 75, 0.4)}%` }}
          />
          <span className="border-t border-hairline text-xs">
            {bar.label === "0" ? "mean" : bar.label}
          </span>
        </li>
      ))}
    </ol>
  );
});

interface FormulasProps {
  formulas: RunLook["formulas"];
  /** Draws a formula of parts and s beside what it tells. */
  onDraw(show: string[]): void;
}

export const Formulas = memo(function Formulas({ formulas, onDraw }: FormulasProps) {
  return formulas.map((formula) => (
    <section key={formula.latex} aria-label={formula.title || undefined} className="mt-3">
      {formula.title && <h3 className="text-xs font-medium text-soft">{formula.title}</h3>}
      <div className="overflow-x-auto py-1 whitespace-nowrap">
        <Formula latex={formula.latex} />
      </div>
      {formula.text && (
        <Pill onClick={() => onDraw([formula.beside, formula.text])}>
          Draw it over the simulated one
        </Pill>
      )}
    </section>
  ));
});
