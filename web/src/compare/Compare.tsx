// Compare: the ledger. A row for each quantity; hand, simulated and bench; the differences; a verdict.
import { useEffect, useState } from "react";
import type { DifferenceLook, Exercise, Measurement, QuantityLook, RowLook } from "../api/types";
import { isSame } from "../document/figures";
import { rename } from "../document/rename";
import { useExercise } from "../document/store";
import { useHand } from "../schematic/hand/tools";
import { freshId } from "../schematic/model/wires";
import { lookAtRun } from "../simulate/runsOf";
import { Formula } from "../ui/Formula";
import { Named } from "../ui/Named";
import { NameField } from "../ui/NameField";
import { say } from "../ui/Toasts";
import { Verdict } from "../ui/Verdict";

export function Compare() {
  const look = useExercise((state) => state.look);
  const [all, setAll] = useState(false);
  useEffect(() => {
    useExercise.getState().compare(true);
    return () => useExercise.getState().compare(false);
  }, []);
  if (!look?.compared) return <p className="p-6 text-soft">Checking …</p>;

  const voiced = look.ledger;
  const named = new Map(voiced.map((row) => [row.quantity, row]));
  const rest = look.quantities.filter((quantity) => !named.has(quantity.name));
  // In the full list every quantity keeps its place, so that a row stays put while it is written in.
  const full = [
    ...look.quantities.map((quantity) => named.get(quantity.name) ?? simulatedOnly(quantity)),
    ...voiced.filter((row) => row.simulated === null),
  ];
  const rows = all || !voiced.length ? full : voiced;
  return (
    <div className="px-5 py-4">
      <Summary rows={voiced} unsolved={look.unsolved} />
      {rows.length > 0 && (
        <table className="w-full border-collapse text-[15px]">
          <caption className="sr-only">Ledger</caption>
          <thead>
            <tr className="border-b-2 border-ink/70 text-left text-[13px] text-soft">
              <th scope="col" className="py-1.5 pr-2 font-medium">
                Quantity
              </th>
              <th scope="col" className="px-2 text-right font-medium">
                <VoiceHead voice="hand" />
              </th>
              <th scope="col" className="px-2 text-right font-medium">
                <VoiceHead voice="simulated" />
              </th>
              <th scope="col" className="px-2 text-right font-medium">
                <VoiceHead voice="bench" />
              </th>
              <th scope="col" className="pr-2 pl-3 text-right font-medium">
                Verdict
              </th>
            </tr>
          </thead>
          {rows.map((row) => (
            <LedgerRow key={row.quantity} row={row} />
          ))}
        </table>
      )}
      {voiced.length > 0 && rest.length > 0 && (
        <button
          type="button"
          aria-expanded={all}
          onClick={() => setAll(!all)}
          className="mt-3 rounded-md px-2 py-1 text-sm text-accent underline-offset-4 hover:underline"
        >
          {all ? "Only what is compared" : `Show ${rest.length} more simulated quantities`}
        </button>
      )}
    </div>
  );
}

/** The row of a quantity that no other voice has spoken of yet. */
function simulatedOnly(quantity: QuantityLook): RowLook {
  const { name, latex, kind, subject, meaning, text, uncertainty } = quantity;
  return {
    quantity: name,
    latex,
    kind,
    subject,
    meaning,
    hand: null,
    hand_problem: null,
    simulated: text,
    simulated_uncertainty: uncertainty,
    bench: null,
    bench_uncertainty: null,
    bench_problem: null,
    simulated_less_hand: null,
    bench_less_simulated: null,
    bench_less_hand: null,
    verdict: "open",
    sentence: null,
    row: null,
    figure: { quantity: name, run: "", record: "", reading: "", member: "", case: "" },
    measurement: null,
    conditions: "",
    stale: false,
  };
}

function Summary({ rows, unsolved }: { rows: RowLook[]; unsolved: string | null }) {
  const judged = rows.filter((row) => row.verdict !== "open");
  const agreeing = judged.filter((row) => row.verdict === "agree").length;
  const gaps = judged.filter((row) => row.verdict === "gap");
  return (
    <div className="mb-3">
      {unsolved ? (
        <p className="text-[15px] text-fault">Nothing can be simulated: {unsolved}</p>
      ) : judged.length ? (
        <p className="font-serif text-xl">
          {agreeing === judged.length
            ? judged.length === 1
              ? "The one quantity compared agrees."
              : `${judged.length === 2 ? "Both" : `All ${judged.length}`} compared quantities agree.`
            : `${agreeing} of ${judged.length} compared quantities agree${gaps.length ? `; ${gaps.length} ${gaps.length === 1 ? "differs" : "differ"}.` : "."}`}
        </p>
      ) : (
        <p className="max-w-prose text-soft">
          Nothing is compared yet. Work a quantity out in Predict, or write what the meter showed
          into the bench column, as in <span className="figure voice-bench">2.61 V ± 0.02 V</span>.
        </p>
      )}
    </div>
  );
}

const HEADS = { hand: "Hand", simulated: "Simulated", bench: "Bench" } as const;

/** The voice's own mark: pencil dashes, an ink line, copper dots with error bars. */
function VoiceHead({ voice }: { voice: keyof typeof HEADS }) {
  return (
    <span className={`inline-flex items-center gap-1.5 voice-${voice}`}>
      <svg aria-hidden="true" width="22" height="10" viewBox="0 0 22 10">
        {voice === "hand" && (
          <path d="M1 5H21" stroke="currentColor" strokeWidth="2" strokeDasharray="4 3" />
        )}
        {voice === "simulated" && <path d="M1 5H21" stroke="currentColor" strokeWidth="2" />}
        {voice === "bench" && (
          <path
            d="M5 1V9M3.5 1h3M3.5 9h3M16 1V9M14.5 1h3M14.5 9h3"
            stroke="currentColor"
            strokeWidth="1.2"
          />
        )}
        {voice === "bench" && (
          <>
            <circle cx="5" cy="5" r="2.2" fill="currentColor" />
            <circle cx="16" cy="5" r="2.2" fill="currentColor" />
          </>
        )}
      </svg>
      {HEADS[voice]}
    </span>
  );
}

function LedgerRow({ row }: { row: RowLook }) {
  const lit = useHand((state) => state.lit === row.quantity);
  const point = (quantity: string | null) => useHand.getState().set({ lit: quantity });
  return (
    <tbody
      data-quantity={row.quantity}
      onPointerEnter={() => point(row.quantity)}
      onPointerLeave={() => point(null)}
      className={`border-b border-ruling ${lit ? "bg-accent-wash" : ""}`}
    >
      <tr className="align-baseline">
        <th scope="row" title={row.meaning} className="pt-2.5 pr-2 pb-1 pl-1 text-left font-normal">
          <Formula latex={row.latex} />
        </th>
        <td className="figure voice-hand px-2 text-right whitespace-nowrap">{row.hand ?? ""}</td>
        <td className="figure voice-simulated px-2 text-right whitespace-nowrap">
          {row.simulated ?? ""}
          <Spread text={row.simulated_uncertainty} />
        </td>
        <td className="pl-1 text-right">
          <BenchField row={row} />
          {!row.measurement && row.bench && <Spread text={row.bench_uncertainty} />}
        </td>
        <td className="pr-1 pl-3 text-right whitespace-nowrap">
          <Verdict verdict={row.verdict} />
        </td>
      </tr>
      <tr>
        <td colSpan={5} className="px-1 pb-2.5 text-[13px] leading-5 text-soft">
          {row.row && <Kept row={row} id={row.row} />}
          {row.hand_problem && <p className="text-fault">Hand: {row.hand_problem}.</p>}
          {row.bench_problem && <p className="text-fault">Bench: {row.bench_problem}.</p>}
          <Differences row={row} />
          {row.verdict !== "open" && row.sentence && <p>{row.sentence}</p>}
        </td>
      </tr>
    </tbody>
  );
}

/** What was put into the ledger: of what, under which conditions, and whether they still hold. */
function Kept({ row, id }: { row: RowLook; id: string }) {
  const remove = () =>
    useExercise.getState().edit((document) => {
      document.ledger = document.ledger.filter((each) => each.id !== id);
    });
  return (
    <p className="flex flex-wrap items-baseline gap-x-2">
      <NameField
        aria-label={`Name of ${row.meaning}`}
        value={row.quantity}
        maxLength={40}
        onGive={(name) => rename([{ what: "row", which: id, name, sheet: "" }])}
        onRefused={say}
        className="figure w-16 rounded border border-transparent px-0.5 hover:border-hairline focus:border-accent focus:outline-none"
      />
      <span>
        <Named text={row.meaning} />. {row.conditions}.
      </span>
      {row.stale && (
        <span className="text-doubt">
          The circuit was changed since.{" "}
          <button
            type="button"
            onClick={() => lookAtRun(row.figure.run)}
            className="underline underline-offset-2"
          >
            Run it again
          </button>
        </span>
      )}
      <button type="button" onClick={remove} className="underline underline-offset-2">
        Remove
      </button>
    </p>
  );
}

function Spread({ text }: { text: string | null }) {
  return text ? <span className="block text-[13px] opacity-85">{text}</span> : null;
}

function Differences({ row }: { row: RowLook }) {
  const pairs: [string, DifferenceLook | null][] = [
    ["simulated − hand", row.simulated_less_hand],
    ["bench − simulated", row.bench_less_simulated],
    ["bench − hand", row.bench_less_hand],
  ];
  if (pairs.every(([, difference]) => !difference)) return null;
  return (
    <dl className="flex flex-wrap gap-x-6">
      {pairs.map(
        ([between, difference]) =>
          difference && (
            <div key={between} className="flex gap-2">
              <dt>{between}</dt>
              <dd className="figure text-ink">
                {difference.absolute}
                {difference.relative && `, ${difference.relative}`}
              </dd>
            </div>
          ),
      )}
    </dl>
  );
}

/** The reading as it was written down, changed where it stands. */
function BenchField({ row }: { row: RowLook }) {
  const id = useExercise((s) => readingOf(s.document, row)?.id);
  const note = useExercise((s) => s.document.measurements.find((item) => item.id === id));
  const text = note?.text ?? "";
  const write = (value: string) =>
    useExercise.getState().edit((document) => {
      const existing = readingOf(document, row);
      if (existing) existing.text = value;
      else
        document.measurements.push({
          id: freshId("b", document.measurements),
          figure: row.figure,
          text: value,
          note: "",
        });
    }, `bench ${row.quantity}`);
  return (
    <input
      aria-label={`Bench reading of ${row.quantity}`}
      aria-invalid={Boolean(row.bench_problem)}
      value={text}
      title={note?.note}
      maxLength={60}
      spellCheck={false}
      autoComplete="off"
      placeholder={row.bench ?? "—"}
      onChange={(event) => write(event.target.value)}
      onBlur={() => useExercise.getState().endGroup()}
      className={`figure voice-bench field-sizing-content w-full min-w-16 rounded-md border border-transparent bg-transparent px-1 py-0.5 text-right ${row.bench ? "placeholder:text-bench" : "placeholder:text-soft"} hover:border-hairline focus:border-accent focus:bg-raised focus:outline-none aria-invalid:border-fault`}
    />
  );
}

/** The reading that the ledger judges, or the last of that figure where none is written yet. */
function readingOf({ measurements }: Exercise, row: RowLook): Measurement | undefined {
  const judged = measurements.find((each) => each.id === row.measurement);
  return judged ?? measurements.filter((each) => isSame(each.figure, row.figure)).at(-1);
}
