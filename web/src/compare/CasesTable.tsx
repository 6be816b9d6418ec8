// All cases side by side: for each figure a line a case, or for one voice a column a case.
import { useState } from "react";
import type { CaseLedger, RowLook } from "../api/types";
import { lookAtCase } from "../document/cases";
import { useExercise } from "../document/store";
import { Formula } from "../ui/Formula";
import { Named } from "../ui/Named";
import { Verdict } from "../ui/Verdict";
import { BenchField } from "./LedgerRow";
import { VoiceHead, VoiceHeads } from "./VoiceHead";
import { handLineOf, writeByHand } from "./writing";

export type Chosen = "all" | "hand" | "simulated" | "bench";

export interface Figures {
  row: RowLook;
  /** The row of each case, in their order; undefined where the case has none. */
  of: (RowLook | undefined)[];
}

/** Every figure that some case has, in the order of the first. */
export function figuresOf(ledgers: CaseLedger[]): Figures[] {
  const names = new Map<string, RowLook>();
  for (const { rows } of ledgers)
    for (const row of rows) if (!names.has(row.quantity)) names.set(row.quantity, row);
  const found = ledgers.map(({ rows }) => new Map(rows.map((row) => [row.quantity, row])));
  return [...names.values()].map((row) => ({
    row,
    of: found.map((rows) => rows.get(row.quantity)),
  }));
}

interface Props {
  ledgers: CaseLedger[];
  figures: Figures[];
  voice: Chosen;
}

export function CasesTable({ ledgers, figures, voice }: Props) {
  return voice === "all" ? (
    <ByFigure ledgers={ledgers} figures={figures} />
  ) : (
    <ByCase ledgers={ledgers} figures={figures} voice={voice} />
  );
}

function CaseName({ ledger }: { ledger: CaseLedger }) {
  return (
    <button
      type="button"
      title="Look at this case"
      onClick={() => lookAtCase(ledger.case)}
      className="text-left underline-offset-2 hover:underline"
    >
      {ledger.name}
    </button>
  );
}

function ByFigure({ ledgers, figures }: Omit<Props, "voice">) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-[15px]">
        <caption className="sr-only">Ledger of all cases</caption>
        <thead>
          <tr className="border-b-2 border-ink/70 text-left text-[13px] text-soft">
            <th scope="col" className="py-1.5 font-medium">
              Case
            </th>
            <VoiceHeads />
            <th scope="col" className="pl-2 text-right font-medium">
              Verdict
            </th>
          </tr>
        </thead>
        {figures.map(({ row, of }) => (
          <tbody key={row.quantity} data-figure={row.quantity} className="border-b border-ruling">
            <tr>
              <th
                scope="rowgroup"
                colSpan={5}
                title={row.meaning}
                className="pt-2.5 text-left font-normal"
              >
                <Formula latex={row.latex} />
                <span className="ml-2 text-[13px] text-soft">
                  <Named text={row.meaning} />
                </span>
              </th>
            </tr>
            {ledgers.map((ledger, k) => (
              <tr key={ledger.case} className="align-baseline">
                <th scope="row" className="py-1 pl-3 text-left text-[13px] font-normal text-soft">
                  <CaseName ledger={ledger} />
                </th>
                <Cells
                  row={of[k]}
                  name={row.quantity}
                  inCase={ledger.case}
                  problem={ledger.problem}
                />
              </tr>
            ))}
          </tbody>
        ))}
      </table>
    </div>
  );
}

interface CellsProps {
  row: RowLook | undefined;
  name: string;
  inCase: string;
  problem: string | null;
}

function Cells({ row, name, inCase, problem }: CellsProps) {
  if (!row)
    return (
      <td colSpan={4} className="text-right text-[13px] text-fault">
        {problem}
      </td>
    );
  return (
    <>
      <td className="w-22 px-1 text-right">
        <HandField row={row} name={name} inCase={inCase} />
      </td>
      <td
        title={row.simulated_problem ?? undefined}
        className="figure voice-simulated px-2 text-right whitespace-nowrap"
      >
        {row.simulated ?? (row.simulated_problem ? <Why text={row.simulated_problem} /> : "—")}
        {row.simulated_uncertainty && (
          <span className="text-[13px] opacity-85"> {row.simulated_uncertainty}</span>
        )}
      </td>
      <td className="w-34 text-right">
        <BenchField row={row} inCase={inCase} isWhole />
      </td>
      <td title={row.sentence ?? undefined} className="py-0.5 pl-2 text-right whitespace-nowrap">
        {row.verdict === "open" ? (
          <span className="text-soft">—</span>
        ) : (
          <Verdict verdict={row.verdict} isSmall />
        )}
      </td>
    </>
  );
}

const Why = ({ text }: { text: string }) => (
  <span className="font-sans text-[13px] whitespace-normal text-fault">{text}</span>
);

function ByCase({ ledgers, figures, voice }: Props & { voice: Exclude<Chosen, "all"> }) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-[15px]">
        <caption className="sr-only">Ledger of all cases, {voice}</caption>
        <thead>
          <tr className="border-b-2 border-ink/70 text-[13px] text-soft">
            <th scope="col" className="py-1.5 text-left font-medium">
              <VoiceHead voice={voice} />
            </th>
            {ledgers.map((ledger) => (
              <th key={ledger.case} scope="col" className="px-2 text-right font-medium">
                <CaseName ledger={ledger} />
                {ledger.problem && <Why text={ledger.problem} />}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {figures.map(({ row, of }) => (
            <tr key={row.quantity} className="border-b border-ruling align-baseline">
              <th scope="row" title={row.meaning} className="py-1.5 text-left font-normal">
                <Formula latex={row.latex} />
              </th>
              {of.map((own, k) => (
                <td
                  // biome-ignore lint/style/noNonNullAssertion: as many as there are cases
                  key={ledgers[k]!.case}
                  className={`figure px-2 text-right whitespace-nowrap voice-${voice}`}
                >
                  {own?.[voice] ?? "—"}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The hand value of one case: what a line gives, or a value typed for this case alone. */
function HandField({ row, name, inCase }: { row: RowLook; name: string; inCase: string }) {
  const line = useExercise((state) => handLineOf(state.document, name, inCase)?.text);
  const text = line?.slice(line.indexOf("=") + 1).trim() ?? "";
  const [isWritten, setWritten] = useState(false);
  return (
    <input
      aria-label={`Hand value of ${name}`}
      aria-invalid={Boolean(row.hand_problem)}
      title={row.hand_problem ?? (text || undefined)}
      // What it comes to, and while it is written in, what was written.
      value={isWritten || !row.hand || !text ? text : row.hand}
      maxLength={200}
      spellCheck={false}
      autoComplete="off"
      placeholder={row.hand ?? "—"}
      onFocus={() => setWritten(true)}
      onChange={(event) => writeByHand(name, inCase, event.target.value)}
      onBlur={() => {
        setWritten(false);
        useExercise.getState().endGroup();
      }}
      className={`figure voice-hand w-full min-w-16 rounded-md border border-transparent bg-transparent px-1 py-0.5 text-right ${row.hand ? "placeholder:text-hand" : "placeholder:text-soft"} hover:border-hairline focus:border-accent focus:bg-raised focus:outline-none aria-invalid:border-fault`}
    />
  );
}
