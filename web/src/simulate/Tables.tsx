// Results that are tables, bars or formulas: operating points, phasors, harmonics, transfer functions.
import type { RunLook, TableLook } from "../api/types";
import { Formula } from "../ui/Formula";

export function Tables({ tables }: { tables: TableLook[] }) {
  return tables.map((table) => (
    <section key={table.title} className="mt-4">
      <h3 className="font-serif text-lg">{table.title}</h3>
      <div className="overflow-x-auto">
        <table className="w-full text-sm" aria-label={table.title}>
          <thead>
            <tr className="border-b border-hairline text-left text-soft">
              {table.head.map((name, k) => (
                <th key={name} className={`py-1 pr-3 font-medium ${k ? "text-right" : ""}`}>
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.map((row) => (
              <tr key={row.join()} className="border-b border-ruling">
                {row.map((cell, k) => (
                  <td
                    key={table.head[k]}
                    className={`py-1 pr-3 align-top ${k ? "figure text-right text-simulated" : "font-serif italic"}`}
                  >
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  ));
}

/** Harmonics side by side, each as tall as it is large beside the largest. */
export function Bars({ bars }: { bars: RunLook["bars"] }) {
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
}

export function Formulas({ formulas }: { formulas: RunLook["formulas"] }) {
  return formulas.map((formula) => (
    <section key={formula.latex} aria-label={formula.title || undefined} className="mt-3">
      {formula.title && <h3 className="text-xs font-medium text-soft">{formula.title}</h3>}
      <div className="overflow-x-auto py-1 whitespace-nowrap">
        <Formula latex={formula.latex} />
      </div>
    </section>
  ));
}
