// Compare: the ledger. A row for each figure; hand, simulated and bench; the differences; a verdict.
import { Copy, Download, Plus } from "lucide-react";
import { useEffect, useState } from "react";
import { askOnLine } from "../api/line";
import { useExports } from "../api/offered";
import type { CaseLedger, QuantityLook, RowLook } from "../api/types";
import { BASE, nameOfCase, useShownCase } from "../document/cases";
import { atRest } from "../document/figures";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";
import { save } from "../schematic/view/picture";
import { Button, IconButton } from "../ui/Button";
import { Menu, MenuItem } from "../ui/Menu";
import { say } from "../ui/Toasts";
import { WhySheet } from "../why/Why";
import { WhyButton } from "../why/WhyButton";
import { CasesTable, type Chosen, type Figures, figuresOf } from "./CasesTable";
import { CurvesJudged } from "./CurvesJudged";
import { LedgerRow } from "./LedgerRow";
import { columnsOf, linesOf } from "./tables";
import { useLedgers } from "./useLedgers";
import { VoiceHeads } from "./VoiceHead";
import { addFormulaRow } from "./writing";

type Order = "set" | "name" | "gravest";
const EVERYTHING = "everything";
const GRAVITY = { open: 0, agree: 1, near: 2, gap: 3 } as const;

export function Compare() {
  const look = useExercise((state) => state.look);
  const cases = useExercise((state) => state.document.cases);
  const title = useExercise((state) => state.document.title);
  const shown = useShownCase();
  const exports = useExports();
  const [all, setAll] = useState(false);
  const [isTable, setTable] = useState(false);
  const [voice, setVoice] = useState<Chosen>("all");
  const [isFiltered, setFiltered] = useState(false);
  const [order, setOrder] = useState<Order>("set");
  useEffect(() => {
    useExercise.getState().compare(true);
    return () => useExercise.getState().compare(false);
  }, []);
  const ids = isTable && cases.length ? [BASE, ...cases.map(({ id }) => id)] : [shown];
  const isSlow = look?.ledger.some((row) => row.bare) ?? false;
  const hasRecords = useExercise((state) => state.document.records.length > 0);
  const isMeasured = useExercise(
    ({ document }) => hasRecords || document.measurements.some(({ text }) => text.trim()),
  );
  const wanted = Boolean(look?.compared) && (isTable || isSlow || hasRecords);
  const ledgers = useLedgers(ids, wanted);
  if (!look?.compared) return <p className="p-6 text-soft">Checking …</p>;

  const own = isTable ? undefined : ledgers.told?.[0];
  const rows = own?.rows ?? look.ledger;
  const shownLedgers: CaseLedger[] = isTable
    ? (ledgers.told ?? ledgers.last ?? [])
    : [
        {
          case: shown,
          name: nameOfCase(useExercise.getState().document, shown),
          rows,
          problem: null,
          curves: ledgers.last?.[0]?.curves ?? [],
        },
      ];
  const voiced = shownLedgers.flatMap((ledger) => ledger.rows);
  return (
    <div className="@container px-5 py-4">
      <Summary rows={voiced} unsolved={isTable ? null : look.unsolved} />
      <WhySheet at={EVERYTHING} />
      <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1.5 text-[13px] text-soft print:hidden">
        {cases.length > 0 && (
          <Choice
            label="Which cases"
            value={isTable ? "all" : "one"}
            options={[
              ["one", "This case"],
              ["all", "All cases"],
            ]}
            onChange={(to) => setTable(to === "all")}
          />
        )}
        {isTable && cases.length > 0 && (
          <Choice
            label="Which voices"
            value={voice}
            options={[
              ["all", "All voices"],
              ["hand", "Hand"],
              ["simulated", "Simulated"],
              ["bench", "Bench"],
            ]}
            onChange={(to) => setVoice(to as Chosen)}
          />
        )}
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={isFiltered}
            onChange={(event) => setFiltered(event.target.checked)}
            className="accent-accent"
          />
          Only what differs
        </label>
        <label className="flex items-center gap-1.5">
          Order
          <select
            value={order}
            onChange={(event) => setOrder(event.target.value as Order)}
            className="h-7 rounded-md border border-edge bg-paper px-1 text-ink"
          >
            <option value="set">as set</option>
            <option value="name">by name</option>
            <option value="gravest">gravest first</option>
          </select>
        </label>
        <Allowed />
        {isMeasured && (
          <WhyButton at={EVERYTHING} question={{}}>
            Explain all that was measured
          </WhyButton>
        )}
        <span className="ml-auto flex">
          <IconButton
            label="Copy the table"
            className="size-8!"
            onClick={() => copied(columnsOf(linesOf(exports.columns, shownLedgers)))}
          >
            <Copy size={15} />
          </IconButton>
          <Menu
            trigger={
              <IconButton label="The table as a file" className="size-8!">
                <Download size={15} />
              </IconButton>
            }
          >
            {exports.ledgers.map(({ form, label }) => (
              <MenuItem key={form} onSelect={() => void download(ids, title, form)}>
                {label}
              </MenuItem>
            ))}
          </Menu>
        </span>
      </div>
      {ledgers.share !== null && (
        <p className="mb-2 flex items-center gap-2 text-[13px] text-soft">
          <progress aria-label="Ledger worked out" value={ledgers.share} className="h-2 w-40" />
          Working out …
          <Button className="h-7! px-2! text-[13px]!" onClick={ledgers.cancel}>
            Cancel
          </Button>
        </p>
      )}
      {ledgers.trouble && <p className="mb-2 text-sm text-fault">{ledgers.trouble}</p>}
      {isTable ? (
        <CasesTable
          ledgers={shownLedgers}
          figures={arranged(figuresOf(shownLedgers), isFiltered, order)}
          voice={voice}
        />
      ) : (
        <OneCase
          rows={rows}
          quantities={look.quantities}
          all={all}
          isFiltered={isFiltered}
          order={order}
          isFollowing={isSlow && !own}
        />
      )}
      {!isTable && <More rows={rows} quantities={look.quantities} all={all} onAll={setAll} />}
      <AddRow />
      <CurvesJudged ledgers={shownLedgers} />
    </div>
  );
}

async function download(cases: string[], title: string, form: string): Promise<void> {
  try {
    const { document } = useExercise.getState();
    const content = await asking(document, (sent) =>
      askOnLine("ledger_file", { ...sent, cases, form }),
    );
    save(content, `${title || "ledger"}.${form}`, "application/octet-stream");
  } catch (error) {
    say((error as Error).message);
  }
}

function copied(text: string): void {
  navigator.clipboard.writeText(text).then(
    () => say("The table is copied."),
    () => say("The browser does not let the page copy."),
  );
}

/** Filtered and put in order; the gravest verdict of all cases counts. */
function arranged(figures: Figures[], isFiltered: boolean, order: Order): Figures[] {
  const worst = ({ of }: Figures) =>
    Math.max(0, ...of.map((row) => GRAVITY[row?.verdict ?? "open"]));
  const kept = isFiltered ? figures.filter((each) => worst(each) > GRAVITY.agree) : figures;
  if (order === "name")
    return [...kept].sort((a, b) => a.row.quantity.localeCompare(b.row.quantity));
  return order === "gravest" ? [...kept].sort((a, b) => worst(b) - worst(a)) : kept;
}

interface OneProps {
  rows: RowLook[];
  quantities: QuantityLook[];
  all: boolean;
  isFiltered: boolean;
  order: Order;
  /** Slow figures are on their way. */
  isFollowing: boolean;
}

function OneCase({ rows: voiced, quantities, all, isFiltered, order, isFollowing }: OneProps) {
  const named = new Map(voiced.map((row) => [row.quantity, row]));
  // In the full list every quantity keeps its place, so that a row stays put while it is written in.
  const full = [
    ...quantities.map((quantity) => named.get(quantity.name) ?? simulatedOnly(quantity)),
    ...voiced.filter((row) => !quantities.some(({ name }) => name === row.quantity)),
  ];
  const chosen = all || !voiced.length ? full : voiced;
  const rows = arranged(
    chosen.map((row) => ({ row, of: [row] })),
    isFiltered,
    order,
  ).map(({ row }) => row);
  if (!rows.length)
    return isFiltered && voiced.length ? <p className="text-soft">Nothing differs.</p> : null;
  const groups = order === "set" ? [...new Set(rows.map(({ group }) => group))] : [null];
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-[15px]">
        <caption className="sr-only">Ledger</caption>
        <thead>
          <tr className="border-b-2 border-ink/70 text-left text-[13px] text-soft">
            <th scope="col" className="py-1.5 pr-2 font-medium">
              Quantity
            </th>
            <VoiceHeads />
            <th scope="col" className="pr-2 pl-3 text-right font-medium">
              Verdict
            </th>
          </tr>
        </thead>
        {groups.flatMap((group) => [
          group ? (
            <tbody key={`group ${group}`}>
              <tr>
                <th
                  colSpan={5}
                  scope="rowgroup"
                  className="pt-4 pb-1 text-left font-serif text-base font-medium"
                >
                  {group}
                </th>
              </tr>
            </tbody>
          ) : null,
          ...rows
            .filter((row) => group === null || row.group === group)
            .map((row) => (
              <LedgerRow key={row.quantity} row={row} following={isFollowing && row.bare} />
            )),
        ])}
      </table>
    </div>
  );
}

interface MoreProps {
  rows: RowLook[];
  quantities: QuantityLook[];
  all: boolean;
  onAll(all: boolean): void;
}

function More({ rows, quantities, all, onAll }: MoreProps) {
  const named = new Set(rows.map(({ quantity }) => quantity));
  const rest = quantities.filter(({ name }) => !named.has(name)).length;
  if (!rows.length || !rest) return null;
  return (
    <button
      type="button"
      aria-expanded={all}
      onClick={() => onAll(!all)}
      className="mt-3 rounded-md px-2 py-1 text-sm text-accent underline-offset-4 hover:underline"
    >
      {all ? "Only what is compared" : `Show ${rest} more simulated quantities`}
    </button>
  );
}

/** A row of one's own: a formula of other figures. */
function AddRow() {
  const [problem, setProblem] = useState<string | null>(null);
  return (
    <form
      className="mt-3 flex items-center gap-2 print:hidden"
      onSubmit={(event) => {
        event.preventDefault();
        const field = event.currentTarget.elements.namedItem("formula") as HTMLInputElement;
        const found = addFormulaRow(field.value);
        setProblem(found);
        if (!found) field.value = "";
      }}
    >
      <input
        name="formula"
        aria-label="A row for a formula of figures"
        aria-invalid={Boolean(problem)}
        placeholder="A_v = V_out.pp/V_in.pp"
        maxLength={300}
        spellCheck={false}
        autoComplete="off"
        onChange={() => setProblem(null)}
        className="figure w-72 rounded-md border border-edge bg-paper px-2 py-1 text-sm italic aria-invalid:border-fault"
      />
      <Button type="submit" className="h-8! px-2.5 font-normal!">
        <Plus size={15} /> Row
      </Button>
      {problem && <span className="text-sm text-fault">{problem}.</span>}
    </form>
  );
}

/** How far apart voices may be and still agree, for the whole exercise. */
function Allowed() {
  const allowed = useExercise((state) => state.document.allowed) ?? null;
  const text = allowed === null ? "" : `${+(100 * allowed).toPrecision(4)}`;
  return (
    <label
      className="flex items-center gap-1.5"
      title="A difference up to this counts as agreement, whatever the uncertainties say"
    >
      Within
      <input
        key={text}
        aria-label="Difference that counts as agreement, in per cent"
        defaultValue={text}
        placeholder="–"
        maxLength={6}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
        onBlur={(event) => {
          const share = Number(event.target.value.trim().replace("%", "").replace(",", ".")) / 100;
          const isOne = share > 0 && share <= 1;
          if (event.target.value.trim() && !isOne) {
            event.target.value = text;
            say("Between 0 and 100 per cent can count as agreement.");
            return;
          }
          if ((isOne ? share : null) === allowed) return;
          useExercise.getState().edit((document) => {
            document.allowed = isOne ? share : null;
          });
        }}
        className="figure h-7 w-12 rounded-md border border-edge bg-paper px-1.5 text-right text-ink"
      />
      % agrees
    </label>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  options: [string, string][];
  onChange(value: string): void;
}

function Choice({ label, value, options, onChange }: ChoiceProps) {
  return (
    <div role="group" aria-label={label} className="flex rounded-md border border-edge p-0.5">
      {options.map(([key, text]) => (
        <button
          key={key}
          type="button"
          aria-pressed={value === key}
          onClick={() => onChange(key)}
          className="h-6.5 rounded px-2 hover:bg-ruling aria-pressed:bg-ruling aria-pressed:font-medium aria-pressed:text-ink"
        >
          {text}
        </button>
      ))}
    </div>
  );
}

/** The row of a quantity that no other voice has spoken of yet. */
function simulatedOnly(quantity: QuantityLook): RowLook {
  const { name, latex, kind, subject, meaning, text, value, uncertainty } = quantity;
  return {
    quantity: name,
    latex,
    kind,
    subject,
    meaning,
    hand: null,
    hand_uncertainty: null,
    hand_problem: null,
    simulated: text,
    simulated_uncertainty: uncertainty,
    simulated_problem: null,
    bench: null,
    bench_uncertainty: null,
    bench_problem: null,
    simulated_less_hand: null,
    bench_less_simulated: null,
    bench_less_hand: null,
    verdict: "open",
    sentence: null,
    row: null,
    figure: atRest(name),
    measurement: null,
    conditions: "",
    stale: false,
    kept: false,
    bare: false,
    group: "",
    note: "",
    unit: "",
    numbers: [null, [value, 0], null],
    budget: null,
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
