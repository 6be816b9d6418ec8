// Why? The answer in words, the causes with what each takes away, what to measure next.
import { X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { carryOut } from "../api/changes";
import type { CauseLook, ExplanationLook } from "../api/types";
import { measure, useBench } from "../bench/bench";
import { useExercise } from "../document/store";
import { addCase } from "../schematic/editor/cases";
import { useEditorStore } from "../schematic/editor/tools";
import { Button, IconButton } from "../ui/Button";
import { say } from "../ui/Toasts";
import { Allowed } from "./Allowed";
import { Chart } from "./Chart";
import { askAgain, bringBack, cancelWhy, closeWhy, ruleOut, toggleSource, useWhy } from "./why";

const SETTLES = 600; // ms after the last edit, then it is asked again

/** Where it stands open, in place. */
export function WhySheet({ at }: { at: string }) {
  const isOpen = useWhy((state) => state.at === at);
  return isOpen ? <Sheet /> : null;
}

function Sheet() {
  const { told, busy, share, trouble, without, question } = useWhy();
  const [chosen, setChosen] = useState<number | null>(null);
  const document = useExercise((state) => state.document);
  const asked = useRef(document);
  const sheet = useRef<HTMLElement>(null);
  useEffect(() => {
    sheet.current?.focus({ preventScroll: true });
    return () => useEditorStore.getState().set({ hovered: null });
  }, []);
  const answer = told?.is_all ? told.answer : "";
  // biome-ignore lint/correctness/useExhaustiveDependencies: whoever measured anew looks for the new answer
  useEffect(() => {
    if (told?.agrees) {
      setChosen(null); // the cause that was pointed at is in the model by now
      useEditorStore.getState().set({ hovered: null });
    }
    sheet.current?.scrollIntoView({ block: "nearest" });
    // What was pressed may be gone by now; keys go on with the sheet.
    if (window.document.activeElement === window.document.body)
      sheet.current?.focus({ preventScroll: true });
  }, [answer]);
  useEffect(() => {
    if (asked.current === document) return;
    const timer = setTimeout(() => {
      asked.current = document;
      askAgain();
    }, SETTLES);
    return () => clearTimeout(timer);
  }, [document]);
  const causes = told?.causes ?? [];
  const shown = chosen !== null && chosen < causes.length ? chosen : null;
  const first = told && !told.agrees && causes.length ? 0 : null;
  const drawn = shown ?? first;
  const list = causes.length > 0 && (
    <ol aria-label="Causes" className="mt-2">
      {causes.map((cause, k) => (
        <Cause
          key={cause.ruled_by.join()}
          cause={cause}
          isEqual={k > 0 && causes[k - 1]?.group === cause.group}
          isDrawn={drawn === k}
          agrees={told?.agrees ?? false}
          onPoint={(is) => {
            setChosen(is ? k : null);
            useEditorStore.getState().set({ hovered: is && cause.part ? `I_${cause.part}` : null });
          }}
        />
      ))}
    </ol>
  );
  return (
    <section
      ref={sheet}
      tabIndex={-1}
      aria-label="Why"
      onKeyDown={(event) => event.key === "Escape" && closeWhy()}
      className="my-2 rounded-md border border-edge bg-raised px-4 py-3 text-[15px] text-ink outline-none print:hidden"
    >
      <div className="flex items-start gap-2">
        <p className="grow font-serif text-lg leading-6" aria-live="polite">
          {trouble ?? told?.answer ?? "Looking for causes …"}
        </p>
        <IconButton label="Close" className="size-7!" onClick={closeWhy}>
          <X size={15} />
        </IconButton>
      </div>
      {busy && (
        <p className="mt-1 flex items-center gap-2 text-[13px] text-soft">
          <progress aria-label="Causes tried" value={share ?? 0} className="h-2 w-40" />
          Trying causes …
          <Button className="h-7! px-2! text-[13px]!" onClick={cancelWhy}>
            Stop
          </Button>
        </p>
      )}
      {told && <Sources told={told} />}
      {told?.agrees && causes.length > 0 ? (
        <details className="mt-2">
          <summary className="cursor-pointer text-[13px] text-soft">
            What might still be in it
          </summary>
          {list}
        </details>
      ) : (
        list
      )}
      {without.length > 0 && (
        <p className="mt-1 text-[13px] text-soft">
          {without.length === 1 ? "One cause is" : `${without.length} causes are`} ruled out.{" "}
          <button type="button" onClick={bringBack} className="underline underline-offset-2">
            Count them again
          </button>
        </p>
      )}
      {told?.next && <Next next={told.next} />}
      {told?.charts.map((chart) => (
        <Chart
          key={chart.name}
          chart={chart}
          cause={drawn}
          label={drawn === null ? "tolerances alone" : (causes[drawn]?.sentence ?? "")}
        />
      ))}
      {told && told.charts.length > 0 && (
        <p className="mt-1 text-[13px] text-soft">
          {drawn === null
            ? "The line is the circuit with its values where tolerances allow them."
            : "Dashed: tolerances alone. Solid: with the cause pointed at."}
        </p>
      )}
      {told && <Likely told={told} />}
      {question.voices === "bench-simulated" && told?.is_all && <Teacher told={told} />}
    </section>
  );
}

function Sources({ told }: { told: ExplanationLook }) {
  if (!told.sources.length) return null;
  return (
    <div className="mt-2 text-[13px] text-soft">
      <div className="flex flex-wrap items-center gap-1.5">
        From
        {told.sources.map(({ key, label, used }) => (
          <button
            key={key}
            type="button"
            aria-pressed={used}
            title={used ? "Leave it away" : "Count it"}
            onClick={() => toggleSource(key)}
            className="rounded-full border border-edge px-2 py-px text-soft line-through aria-pressed:border-bench/60 aria-pressed:text-ink aria-pressed:no-underline"
          >
            {label}
          </button>
        ))}
      </div>
      {told.notes.map((note) => (
        <p key={note} className="mt-0.5">
          {note}
        </p>
      ))}
    </div>
  );
}

interface CauseProps {
  cause: CauseLook;
  /** As the one before it, which these data cannot tell apart from it. */
  isEqual: boolean;
  isDrawn: boolean;
  agrees: boolean;
  onPoint(is: boolean): void;
}

function Cause({ cause, isEqual, isDrawn, agrees, onPoint }: CauseProps) {
  const percent = Math.round(100 * cause.explains);
  return (
    <li
      onPointerEnter={() => onPoint(true)}
      onPointerLeave={() => onPoint(false)}
      onFocus={() => onPoint(true)}
      className={`rounded px-2 py-1.5 ${isDrawn ? "bg-accent-wash" : ""} ${isEqual ? "ml-3 border-l-2 border-edge" : "border-t border-ruling"}`}
    >
      <div className="flex items-baseline gap-3">
        <span className="grow">
          {isEqual && <span className="text-soft">or: </span>}
          {cause.sentence}
        </span>
        <span className="figure shrink-0 text-[13px]" title="How probable it is, beside the others">
          {likely(cause.probability)}
        </span>
      </div>
      <div className="mt-0.5 flex flex-wrap items-center gap-x-2 gap-y-1 text-[13px] text-soft">
        <span
          role="meter"
          aria-label="Explains of the gap"
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={percent}
          className="block h-1.5 w-14 overflow-hidden rounded-full bg-ruling"
        >
          <span className="block h-full bg-bench" style={{ width: `${percent}%` }} />
        </span>
        <span>explains {percent} %</span>
        <span className="ml-auto flex gap-1">
          {cause.changes.length > 0 && (
            <Button className="h-7! px-2! text-[13px]! font-normal!" onClick={() => putIn(cause)}>
              {cause.ruled_by[0]?.endsWith(" hand") ? "Write it so" : "Put it into the model"}
            </Button>
          )}
          {cause.case.length > 0 && (
            <Button
              look="quiet"
              className="h-7! px-1.5! text-[13px]! font-normal!"
              onClick={() => addCase(caseName(cause), cause.case)}
            >
              As a case
            </Button>
          )}
          {!agrees && (
            <Button
              look="quiet"
              className="h-7! px-1.5! text-[13px]! font-normal!"
              onClick={() => ruleOut(cause.ruled_by)}
            >
              Not this one
            </Button>
          )}
        </span>
      </div>
    </li>
  );
}

function likely(probability: number): string {
  const percent = 100 * probability;
  if (percent >= 99.5) return "> 99 %";
  return percent < 0.5 ? "< 1 %" : `${Math.round(percent)} %`;
}

/** One edit, so that undo takes it out. */
function putIn(cause: CauseLook): void {
  useExercise.getState().edit((draft) => carryOut(draft, cause.changes));
  say("It is in the model; undo takes it out.");
}

const caseName = ({ part, label }: CauseLook) => `${part}: ${label}`.slice(0, 60);

function Next({ next }: { next: NonNullable<ExplanationLook["next"]> }) {
  const isReading = useBench((state) => state.isReading || state.underWay !== null);
  const trouble = useBench((state) => state.trouble);
  return (
    <div className="mt-2 rounded-md border border-hairline bg-paper px-3 py-2">
      <p>
        <span className="text-soft">What would tell them apart: </span>
        {next.sentence}
      </p>
      {next.expected.length > 1 && (
        <p className="mt-0.5 text-[13px] text-soft">
          By the causes, in their order, it would show{" "}
          <span className="figure text-ink">{next.expected.slice(0, 4).join(" · ")}</span>.
        </p>
      )}
      <div className="mt-1.5 flex items-center gap-3">
        <Button
          className="h-8! px-2.5! font-normal!"
          disabled={isReading}
          onClick={() =>
            void measure({ way: next.way, settings: next.settings, bench: "", taken: "" }, () =>
              next.sentence.replace(/\.$/, ""),
            )
          }
        >
          {isReading ? "Measuring …" : "Measure this"}
        </Button>
        {trouble && <span className="text-[13px] text-fault">{trouble}</span>}
      </div>
    </div>
  );
}

function Likely({ told }: { told: ExplanationLook }) {
  const fixed = told.likely.filter((value) => value.fixed > 0.05 || value.assumed);
  if (!fixed.length || !told.agrees) return null;
  return (
    <details className="mt-2 text-[13px]">
      <summary className="cursor-pointer text-soft">Which values are then most likely</summary>
      <table className="mt-1 border-collapse">
        <thead className="text-left text-soft">
          <tr>
            <th className="pr-4 font-medium">Part</th>
            <th className="pr-4 font-medium">drawn</th>
            <th className="pr-4 font-medium">most likely</th>
            <th className="font-medium">fixed by the data</th>
          </tr>
        </thead>
        <tbody>
          {fixed.map((value) => (
            <tr key={value.part} className="border-t border-ruling">
              <th scope="row" className="pr-4 text-left font-normal">
                {value.part}
                {value.assumed && <span className="text-soft"> (usual tolerance)</span>}
              </th>
              <td className="figure pr-4">{value.nominal}</td>
              <td className="figure pr-4">{value.text}</td>
              <td className="figure">{Math.round(100 * value.fixed)} %</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

/** For whoever prepares an exercise: which causes count, and what was planted. */
function Teacher({ told }: { told: ExplanationLook }) {
  return (
    <div className="mt-2 flex flex-wrap gap-x-6 gap-y-1 text-[13px]">
      <Allowed told={told.kinds} />
      <details>
        <summary className="cursor-pointer text-soft">What is planted in the build</summary>
        <p className="mt-1">
          {told.is_sealed
            ? "It is sealed. Its word opens it, in Measure."
            : told.planted.length
              ? `${told.planted.join("; ")}.`
              : "Nothing but what real parts have beside their values."}
        </p>
      </details>
    </div>
  );
}
