// One line of hand working: written, typeset, worked out, and held against the circuit.
import { ClipboardCopy, X } from "lucide-react";
import { useRef } from "react";
import type { Exactness, LineLook, SoughtLook } from "../api/types";
import { BASE_NAME, useShownCase } from "../document/cases";
import { useExercise } from "../document/store";
import { intoLedger } from "../schematic/editor/ledger";
import { makeParameter } from "../schematic/editor/parameters";
import { Formula } from "../ui/Formula";
import { say } from "../ui/Toasts";
import { ExactLine, ExactMark, isTextbook } from "./Exact";
import { LineInput } from "./LineInput";
import { lineOf } from "./lineOf";
import { Sought } from "./Sought";

type About = LineLook["about"];

const ACT = "rounded px-1.5 py-1 whitespace-nowrap text-soft hover:bg-ruling hover:text-ink";

interface Props {
  id: string;
  place: number;
  text: string;
  /** The case it is of; null for all of them. */
  of: string | null;
  /** What somebody said that it is about; null where that follows from the line. */
  about: About | null;
  seen: LineLook | undefined;
  /** How what it gives stands to the circuit's own result, once that is known. */
  exact: Exactness | undefined;
  /** What it asks for, once that is found; of a line with a question mark. */
  sought: SoughtLook | undefined;
  trouble: string;
  focused: boolean;
  onNext(): void;
}

export function WorkLine(props: Props) {
  const { id, place, text, of, about, seen, exact, sought, trouble, focused, onNext } = props;
  const input = useRef<HTMLInputElement>(null);
  const { write, remove } = lineOf(id);
  const shown = useShownCase();
  const isElsewhere = of !== null && of !== shown;
  const isPart = useExercise(({ document }) =>
    document.schematic.parts.some(({ name }) => name === seen?.target),
  );
  const isParameter = useExercise(({ document }) =>
    document.parameters.some(({ name, text }) => name === seen?.target && text === seen?.typed),
  );
  const problem = text.trim() && seen?.problem;
  // A figure of its own: voltages, currents and powers are in the ledger by themselves.
  const isFree =
    seen?.role === "formula" && !!seen.target && !!seen.typed && !/^[VIP]_/.test(seen.target);
  const held = isElsewhere || seen?.simulated ? undefined : exact;
  const pointAt = () => {
    if (!seen) return;
    input.current?.focus();
    input.current?.setSelectionRange(seen.at, seen.at + Math.max(seen.length, 1));
  };
  const copy = async () => {
    const result = seen?.result ? ` = \\text{${seen.result}}` : "";
    await navigator.clipboard.writeText(`${seen?.latex ?? ""}${result}`);
    say("The line is copied as LaTeX.");
  };
  return (
    <li
      className={`group relative rounded-lg border border-hairline px-4 pt-2 pb-3 focus-within:border-accent ${isElsewhere ? "border-dashed" : "bg-raised"}`}
    >
      <div className="flex items-center gap-2">
        <LineInput
          ref={input}
          label={`Line ${place}`}
          value={text}
          unknown={problem && seen ? { at: seen.at, length: seen.length } : null}
          focused={focused}
          onWrite={write}
          onNext={onNext}
          onEmptied={remove}
        />
        {held && !problem && <ExactMark held={held} />}
        {seen?.role === "condition" && (
          <Kind word={isPart ? "given" : "must hold"} holds={isPart ? null : seen.holds} />
        )}
        {seen?.role === "curve" && (
          <span
            className="shrink-0 text-[13px] text-soft"
            title="Drawn in pencil in Simulate, where what it is of is shown"
          >
            a curve
          </span>
        )}
        {seen?.role === "equation" && <Kind word="equation" holds={seen.holds} />}
        <OfWhat id={id} about={about} seen={seen} />
        <OfCase id={id} of={of} />
        {isParameter && <span className="shrink-0 text-xs text-soft">parameter</span>}
      </div>
      <div className="absolute -top-4 right-3 flex items-center gap-0.5 rounded-md border border-hairline bg-raised px-0.5 opacity-0 shadow-card group-focus-within:opacity-100 group-hover:opacity-100">
        {isFree && <IntoLedger name={seen.target ?? ""} />}
        {isFree && !isParameter && <AsParameter name={seen.target ?? ""} />}
        {seen?.latex && (
          <button
            type="button"
            aria-label={`Copy line ${place} as LaTeX`}
            title="Copy as LaTeX"
            onClick={copy}
            className={ACT}
          >
            <ClipboardCopy size={15} />
          </button>
        )}
        <button
          type="button"
          aria-label={`Remove line ${place}`}
          title="Remove"
          onClick={remove}
          className={ACT}
        >
          <X size={15} />
        </button>
      </div>
      {problem ? (
        <button type="button" onClick={pointAt} className="mt-1 block text-left text-sm text-fault">
          <Pointed text={text} at={seen?.at ?? 0} length={seen?.length ?? 1} />
          {problem.charAt(0).toUpperCase() + problem.slice(1)}.
        </button>
      ) : (
        seen?.latex &&
        seen.role !== "sought" && (
          <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1.5 overflow-x-auto py-1">
            <Formula latex={seen.latex} />
            {seen.substituted && <Formula latex={`= ${seen.substituted}`} className="text-soft" />}
            {seen.result && (
              <output
                aria-label={`Result of line ${place}`}
                className={`figure ml-auto border-b pb-px text-lg ${seen.simulated ? "voice-simulated border-solid border-simulated" : "voice-hand border-dashed border-hand"}`}
              >
                = {seen.result}
              </output>
            )}
          </div>
        )
      )}
      {seen?.role === "sought" && <Sought place={place} sought={sought} trouble={trouble} />}
      {held && (problem ? held.mend : held.state !== "equal" || isTextbook(held)) && (
        <ExactLine held={held} />
      )}
      {!problem && seen?.aside && <p className="mt-1 text-[13px] text-soft">{seen.aside}</p>}
      {!problem && seen?.simulated && (
        <p className="mt-1 text-[13px] text-simulated">
          This draws on a simulated figure, so it is not counted as a hand value.
        </p>
      )}
    </li>
  );
}

const ABOUT: Record<About, string> = {
  rest: "at rest",
  phasor: "phasor",
  frequency: "over frequency",
  time: "over time",
};

/** What the line is about, told where it is not the circuit at rest, and set where one wants it otherwise. */
function OfWhat({ id, about, seen }: Pick<Props, "id" | "about" | "seen">) {
  if (!seen?.latex || seen.role === "sought") return null;
  const at = seen.at_frequency ? `phasor at ${seen.at_frequency}` : "";
  const word = (each: About) => (each === seen.about && at) || ABOUT[each];
  const isPlain = about === null && seen.about === "rest";
  return (
    <select
      aria-label="What the line is about"
      title="What this line is checked against"
      value={about ?? ""}
      onChange={(event) =>
        useExercise.getState().edit((document) => {
          const line = document.hand.find((each) => each.id === id);
          if (line) line.about = (event.target.value || null) as About | null;
        })
      }
      className={`field-sizing-content h-7 shrink-0 rounded-md border border-transparent bg-transparent pr-1 text-xs text-soft hover:border-hairline ${isPlain ? "hidden group-focus-within:block group-hover:block" : ""}`}
    >
      <option value="">{about === null ? word(seen.about) : "automatic"}</option>
      {(Object.keys(ABOUT) as About[]).map((each) => (
        <option key={each} value={each}>
          {about === each ? word(each) : ABOUT[each]}
        </option>
      ))}
    </select>
  );
}

/** What kind of line it is, and whether it holds. */
function Kind({ word, holds }: { word: string; holds: boolean | null }) {
  const said = holds === null ? word : holds ? `${word}: it does` : `${word}: not yet`;
  return (
    <span
      className={`shrink-0 text-[13px] ${holds === false ? "text-doubt" : holds ? "text-accent" : "text-soft"}`}
    >
      {said}
    </span>
  );
}

/** Makes what a line gives a parameter, or brings the parameter up to date with it. */
function AsParameter({ name }: { name: string }) {
  const isParameter = useExercise(({ document }) =>
    document.parameters.some((p) => p.name === name),
  );
  return (
    <button
      type="button"
      title={`Then ${name} can be written as the value of a part`}
      onClick={() => makeParameter(name)}
      className={`${ACT} text-xs`}
    >
      {isParameter ? "Update the parameter" : "Make a parameter"}
    </button>
  );
}

/** Puts what a line gives into the ledger, where voltages, currents and powers are by themselves. */
function IntoLedger({ name }: { name: string }) {
  const isThere = useExercise((state) => state.document.ledger.some((row) => row.name === name));
  if (isThere) return null;
  return (
    <button
      type="button"
      title={`Then ${name} stands in Compare, to be measured or put into formulas`}
      onClick={() => intoLedger(name)}
      className={`${ACT} text-xs`}
    >
      Into the ledger
    </button>
  );
}

/** For which case a line is, where there are cases. */
function OfCase({ id, of }: { id: string; of: string | null }) {
  const cases = useExercise((state) => state.document.cases);
  if (!cases.length) return null;
  const to = (text: string) =>
    useExercise.getState().edit((document) => {
      const line = document.hand.find((each) => each.id === id);
      if (line) line.case = text === "all" ? null : text.slice(1);
    });
  return (
    <select
      aria-label="Case of the line"
      value={of === null ? "all" : `=${of}`}
      onChange={(event) => to(event.target.value)}
      className="field-sizing-content h-7 max-w-44 shrink-0 rounded-md pr-1 border border-transparent bg-transparent text-xs text-soft hover:border-hairline"
    >
      <option value="all">all cases</option>
      <option value="=">{BASE_NAME}</option>
      {cases.map((each, k) => (
        <option key={each.id} value={`=${each.id}`}>
          {each.name || `Case ${k + 1}`}
        </option>
      ))}
    </select>
  );
}

/** The text again with the place of the trouble underlined. */
function Pointed({ text, at, length }: { text: string; at: number; length: number }) {
  const end = at + Math.max(length, 1);
  return (
    <span className="figure mb-0.5 block text-[15px] text-soft italic" aria-hidden="true">
      {text.slice(0, at)}
      <mark className="border-b-2 border-fault bg-fault-wash text-fault">
        {text.slice(at, end) || " "}
      </mark>
      {text.slice(end)}
    </span>
  );
}
