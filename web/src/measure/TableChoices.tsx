// How a table from elsewhere was read, to be told otherwise: its signs, and what each column is of.
import type { ReadTable } from "../api/types";
import type { TableReading } from "./tableReading";

const GIVEN = ["value", "peak to peak", "RMS", "dB", "degrees", "radians", "uncertainty", "unused"];
const PARTED = [
  [";", "semicolons"],
  [",", "commas"],
  ["\t", "tabs"],
  [" ", "spaces"],
] as const;
export const field =
  "rounded-md border border-edge bg-paper px-1.5 py-1 text-sm text-ink focus:border-accent focus:outline-2 focus:outline-accent";

interface Props {
  reading: TableReading;
  look: ReadTable;
}

export function TableChoices(props: Props) {
  return (
    <>
      <Signs {...props} />
      <Columns {...props} />
    </>
  );
}

function Signs({ reading: { told, change }, look }: Props) {
  return (
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
  );
}

function Columns({ reading: { known, changeColumn }, look }: Props) {
  return (
    <>
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
        {known.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </>
  );
}
