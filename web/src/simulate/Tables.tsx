// Results that are tables: operating points, phasors, natural frequencies.
import type { TableLook } from "../api/types";

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
