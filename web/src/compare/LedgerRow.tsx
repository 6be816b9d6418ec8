// A row of the ledger: what each voice says, how they differ, and what decides.
import { MoreHorizontal } from "lucide-react";
import { useState } from "react";
import type { DifferenceLook, RowLook } from "../api/types";
import { useShownCase } from "../document/cases";
import { runOf, spokenOf } from "../document/figures";
import { rename } from "../document/rename";
import { useExercise } from "../document/store";
import { lookAtRun } from "../plots/runsOf";
import { intoLedger } from "../schematic/editor/ledger";
import { useEditorStore } from "../schematic/editor/tools";
import { Formula } from "../ui/Formula";
import { Menu, MenuItem, MenuLine } from "../ui/Menu";
import { Named } from "../ui/Named";
import { NameField } from "../ui/NameField";
import { say } from "../ui/Toasts";
import { Verdict } from "../ui/Verdict";
import { WhySheet } from "../why/Why";
import { WhyButton } from "../why/WhyButton";
import type { Voices } from "../why/why";
import { Budget } from "./Budget";
import { changeRow, moveRow, readingOf, removeRow, writeReading } from "./writing";

export function LedgerRow({ row, following }: { row: RowLook; following: boolean }) {
  const lit = useEditorStore((state) => state.hovered === litBy(row));
  const [isOpen, setOpen] = useState(false);
  const shown = useShownCase();
  const point = (quantity: string | null) => useEditorStore.getState().set({ hovered: quantity });
  return (
    <tbody
      data-quantity={row.quantity}
      onPointerEnter={() => point(litBy(row))}
      onPointerLeave={() => point(null)}
      className={`border-b border-ruling ${lit ? "bg-accent-wash" : ""}`}
    >
      <tr className="align-baseline">
        <th scope="row" title={row.meaning} className="pt-2.5 pr-2 pb-1 pl-1 text-left font-normal">
          <button
            type="button"
            title={runOf(row.figure) ? "Look at its run" : "Show it on the drawing"}
            onClick={() => show(row)}
            className="rounded hover:bg-ruling"
          >
            <Formula latex={row.latex} />
          </button>
        </th>
        <td className="figure voice-hand px-2 text-right whitespace-nowrap @max-[28rem]:px-1">
          <Told text={row.hand} />
          <Spread text={row.hand_uncertainty} />
        </td>
        <td className="figure voice-simulated px-2 text-right whitespace-nowrap @max-[28rem]:px-1">
          <Told text={row.simulated} />
          <Spread text={row.simulated_uncertainty} />
        </td>
        <td className="pl-1 text-right">
          <BenchField row={row} inCase={shown} />
          {!row.measurement && row.bench && (
            <span className="voice-bench figure block pr-1">
              <Spread text={row.bench_uncertainty} />
            </span>
          )}
        </td>
        <td className="pr-1 pl-3 text-right whitespace-nowrap">
          {following ? (
            <span className="text-[13px] text-soft">working out …</span>
          ) : row.verdict === "open" ? (
            <Verdict verdict="open" />
          ) : (
            <button
              type="button"
              aria-expanded={isOpen}
              aria-label={`What decides on ${row.quantity}`}
              title={row.budget ? "What decides" : "Nothing but closeness decides"}
              disabled={!row.budget}
              onClick={() => setOpen(!isOpen)}
              className="rounded-full disabled:cursor-default"
            >
              <Verdict verdict={row.verdict} />
            </button>
          )}
        </td>
      </tr>
      <tr>
        <td colSpan={5} className="px-1 pb-2.5 text-[13px] leading-5 text-soft">
          {row.row ? (
            <Kept row={row} id={row.row} />
          ) : (
            row.verdict === "open" && (
              <button
                type="button"
                onClick={() => intoLedger(row.quantity)}
                className="underline underline-offset-2 print:hidden"
              >
                Keep in the ledger
              </button>
            )
          )}
          {row.hand_problem && <p className="text-fault">Hand: {row.hand_problem}.</p>}
          {row.simulated_problem && (
            <p className="text-fault">Simulated: {row.simulated_problem}.</p>
          )}
          {row.bench_problem && <p className="text-fault">Bench: {row.bench_problem}.</p>}
          <Differences row={row} />
          {row.verdict !== "open" && !following && row.sentence && <p>{row.sentence}</p>}
          {row.bare && row.verdict !== "open" && !following && (
            <p className="text-doubt">The tolerances of the parts are not reckoned in.</p>
          )}
          {isOpen && row.budget && <Budget budget={row.budget} />}
        </td>
      </tr>
    </tbody>
  );
}

/** Where a figure is from: its run, or what on the drawing it is of. */
function show(row: RowLook): void {
  const run = runOf(row.figure);
  if (run) {
    lookAtRun(run);
    return;
  }
  const { schematic } = useExercise.getState().document;
  const [, kind, subject] = /^([VIP])_([A-Za-z0-9_]+)/.exec(litBy(row)) ?? [];
  const found =
    kind === "V"
      ? schematic.labels.find(({ name }) => name === subject)
      : schematic.parts.find(({ name }) => name === subject);
  if (found) useEditorStore.getState().choose([found.id]);
}

/** What lights up on the drawing with a row: a quantity at rest, or what a curve is of. */
function litBy(row: RowLook): string {
  const plain = /^[VIP]_[A-Za-z0-9_]+/.exec(spokenOf(row.figure));
  return row.figure.of !== "rest" && plain ? plain[0] : row.quantity;
}

/** A figure; the angle of a phasor stands below its magnitude. */
function Told({ text }: { text: string | null }) {
  const [size, angle] = (text ?? "").split(/\s*(?=∠)/);
  return angle ? (
    <>
      {size}
      <span className="block">{angle}</span>
    </>
  ) : (
    size
  );
}

/** What was put into the ledger: of what, under which conditions, and what can be done with it. */
function Kept({ row, id }: { row: RowLook; id: string }) {
  const note = useExercise((state) => state.document.ledger.find((each) => each.id === id)?.note);
  const [asked, setAsked] = useState<"note" | "group" | null>(null);
  const run = runOf(row.figure);
  const pinned = () => {
    const [, simulated] = row.numbers;
    if (!simulated) return;
    changeRow(id, (own) => {
      own.is_kept = !own.is_kept;
      if (own.is_kept)
        own.pinned = {
          value: simulated[0],
          unit: row.unit,
          conditions: row.conditions,
          fingerprint: own.pinned?.fingerprint ?? "",
        };
    });
  };
  return (
    <div className="flex flex-wrap items-baseline gap-x-2">
      <NameField
        aria-label={`Name of ${row.meaning}`}
        value={row.quantity}
        maxLength={40}
        onGive={(name) => rename([{ what: "row", which: id, name, sheet: "" }])}
        onRefused={say}
        className="figure w-16 rounded border border-transparent px-0.5 hover:border-hairline focus:border-accent focus:outline-none"
      />
      <span className="min-w-0">
        {row.meaning && (
          <>
            <Named text={row.meaning} />.{" "}
          </>
        )}
        {row.conditions && `${row.conditions}. `}
        {note && asked !== "note" && <em>{note}</em>}
      </span>
      {row.kept && <span className="rounded bg-ruling px-1.5">kept as it was</span>}
      {row.stale && (
        <span className="text-doubt">
          The circuit was changed since.{" "}
          {run && (
            <button
              type="button"
              onClick={() => lookAtRun(run)}
              className="underline underline-offset-2"
            >
              Run it again
            </button>
          )}
        </span>
      )}
      <Menu
        trigger={
          <button
            type="button"
            aria-label={`What can be done with ${row.quantity}`}
            className="rounded p-0.5 hover:bg-ruling print:hidden"
          >
            <MoreHorizontal size={15} />
          </button>
        }
      >
        {run && <MenuItem onSelect={() => lookAtRun(run)}>Show its run</MenuItem>}
        {row.numbers[1] && row.figure.of !== "formula" && row.figure.of !== "taken" && (
          <MenuItem onSelect={pinned}>
            {row.kept ? "Let it follow the circuit" : "Keep this value"}
          </MenuItem>
        )}
        <MenuItem onSelect={() => setAsked("note")}>Note …</MenuItem>
        <MenuItem onSelect={() => setAsked("group")}>Group …</MenuItem>
        <MenuLine />
        <MenuItem onSelect={() => moveRow(id, -1)}>Move up</MenuItem>
        <MenuItem onSelect={() => moveRow(id, 1)}>Move down</MenuItem>
        <MenuLine />
        <MenuItem onSelect={() => removeRow(id)}>Remove</MenuItem>
      </Menu>
      {asked && (
        <input
          key={asked}
          aria-label={asked === "note" ? `Note on ${row.quantity}` : `Group of ${row.quantity}`}
          // biome-ignore lint/a11y/noAutofocus: it was asked for just now
          autoFocus
          defaultValue={asked === "note" ? (note ?? "") : row.group}
          maxLength={asked === "note" ? 300 : 80}
          placeholder={asked === "note" ? "A note" : "Rows of one name stand together"}
          onKeyDown={(event) => {
            if (event.key === "Escape") setAsked(null);
            if (event.key === "Enter") event.currentTarget.blur();
          }}
          onBlur={(event) => {
            const text = event.target.value.trim();
            changeRow(id, (own) => Object.assign(own, { [asked]: text }));
            setAsked(null);
          }}
          className="grow rounded-md border border-edge bg-paper px-2 py-0.5 text-ink"
        />
      )}
    </div>
  );
}

function Spread({ text }: { text: string | null }) {
  return text ? <span className="block text-[13px] opacity-85">{text}</span> : null;
}

function Differences({ row }: { row: RowLook }) {
  const shown = useShownCase();
  const pairs: [string, Voices, DifferenceLook | null][] = [
    ["simulated − hand", "hand-simulated", row.simulated_less_hand],
    ["bench − simulated", "bench-simulated", row.bench_less_simulated],
    ["bench − hand", "bench-hand", row.bench_less_hand],
  ];
  if (pairs.every(([, , difference]) => !difference)) return null;
  const at = (voices: Voices) => `${row.quantity} ${voices}`;
  return (
    <>
      <dl className="flex flex-wrap gap-x-6">
        {pairs.map(
          ([between, voices, difference]) =>
            difference && (
              <div key={between} className="flex items-baseline gap-2">
                <dt>{between}</dt>
                <dd className="figure text-ink">
                  {difference.absolute}
                  {difference.relative && `, ${difference.relative}`}
                </dd>
                {(difference.state === "gap" || difference.state === "near") && (
                  <WhyButton
                    at={at(voices)}
                    question={{ voices, row: row.quantity, case: shown }}
                    of={`${row.quantity}, ${between}`}
                  />
                )}
              </div>
            ),
        )}
      </dl>
      {pairs.map(([, voices]) => (
        <WhySheet key={voices} at={at(voices)} />
      ))}
    </>
  );
}

interface BenchProps {
  row: RowLook;
  inCase: string;
  /** Whether the uncertainty stands in it, too, of what was worked out. */
  isWhole?: boolean;
}

/** The reading as it was written down, changed where it stands. */
export function BenchField({ row, inCase, isWhole = false }: BenchProps) {
  const id = useExercise((s) => readingOf(s.document, row, inCase)?.id);
  const note = useExercise((s) => s.document.measurements.find((item) => item.id === id));
  return (
    <input
      aria-label={`Bench reading of ${row.quantity}`}
      aria-invalid={Boolean(row.bench_problem)}
      value={note?.text ?? ""}
      title={note?.note}
      maxLength={60}
      spellCheck={false}
      autoComplete="off"
      placeholder={
        isWhole && row.bench ? `${row.bench} ${row.bench_uncertainty ?? ""}` : (row.bench ?? "—")
      }
      onChange={(event) => writeReading(row, inCase, event.target.value)}
      onBlur={() => useExercise.getState().endGroup()}
      className={`figure voice-bench field-sizing-content w-full min-w-16 rounded-md border border-transparent bg-transparent px-1 py-0.5 text-right ${row.bench ? "placeholder:text-bench" : "placeholder:text-soft"} hover:border-hairline focus:border-accent focus:bg-raised focus:outline-none aria-invalid:border-fault`}
    />
  );
}
