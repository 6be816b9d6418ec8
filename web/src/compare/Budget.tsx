// What decides a verdict: each source of uncertainty, what it may come to, and its share, as a table.
import type { BudgetLook } from "../api/types";
import { Named } from "../ui/Named";

const LEAST = 0.004; // share that a bar shows as anything

export function Budget({ budget }: { budget: BudgetLook }) {
  const { contributions } = budget;
  return (
    <div className="mt-1 mb-1 max-w-lg rounded-md border border-hairline bg-raised px-3 py-2">
      <p>
        {budget.of} = <span className="figure text-ink">{budget.difference}</span>,{" "}
        {budget.ratio.toPrecision(2)} times the combined uncertainty{" "}
        <span className="figure text-ink">{budget.covered}</span>
        {budget.by_draws && " (Monte Carlo)"}.
      </p>
      <table aria-label="Uncertainty budget" className="mt-1.5 w-full text-left">
        <thead>
          <tr className="text-xs">
            <th className="font-medium">Source</th>
            <th className="px-3 text-right font-medium">May come to</th>
            <th className="w-1/2 font-medium">Share</th>
          </tr>
        </thead>
        <tbody>
          {contributions.map(({ source, size, share }) => (
            <tr key={source}>
              <td className="text-ink">
                <Source text={source} />
              </td>
              <td className="figure px-3 text-right text-ink">{size}</td>
              <td>
                <span className="flex items-center gap-2">
                  <span
                    aria-hidden="true"
                    className="h-2 rounded-sm bg-accent"
                    style={{ width: `${75 * (share < LEAST ? 0 : share)}%` }}
                  />
                  <span className="figure">{Math.round(100 * share)} %</span>
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** R1 is a part whose tolerance is meant; what is told in words stands as it is. */
function Source({ text }: { text: string }) {
  const reading = /^reading of (.*)$/.exec(text);
  if (reading)
    return (
      <>
        reading of <Named text={reading[1] ?? ""} />
      </>
    );
  if (text.includes(" ")) return <>{text}</>;
  return (
    <>
      tolerance of <span className="font-serif italic">{text}</span>
    </>
  );
}
