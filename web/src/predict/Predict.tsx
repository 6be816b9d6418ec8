// Predict: lines of hand working, typeset as they are typed, each with its result and unit.
import { Plus, X } from "lucide-react";
import { useRef, useState } from "react";
import type { LineLook } from "../api/types";
import { BASE_NAME, useShownCase } from "../document/cases";
import { useExercise } from "../document/store";
import { intoLedger } from "../schematic/hand/ledger";
import { makeParameter } from "../schematic/hand/parameters";
import { freshId } from "../schematic/model/wires";
import { Button } from "../ui/Button";
import { Formula } from "../ui/Formula";
import { Pill } from "../ui/Pill";

export function Predict() {
  const lines = useExercise((state) => state.document.hand);
  const purpose = useExercise((state) => state.document.purpose);
  const looks = useExercise((state) => state.look?.lines);
  const [fresh, setFresh] = useState<string | null>(null);
  const seen = new Map(looks?.map((line) => [line.id, line]));

  const add = (after?: string) => {
    const id = freshId("h", lines);
    useExercise.getState().edit((document) => {
      const at = after ? document.hand.findIndex((line) => line.id === after) + 1 : lines.length;
      document.hand.splice(at, 0, { id, text: "" });
    });
    setFresh(id);
  };
  return (
    <div className="mx-auto max-w-3xl px-6 py-5">
      {purpose && <p className="mb-5 max-w-prose text-[15px] text-soft">{purpose}</p>}
      {lines.length === 0 && (
        <div className="mb-5">
          <h2 className="font-serif text-xl">Work it out by hand first</h2>
          <p className="mt-1 max-w-prose text-soft">
            Write a line as in a textbook, with part names for their values:{" "}
            <span className="figure voice-hand">V_out = V1*R2/(R1+R2)</span>. Voltages are V_ with
            the node's name, currents I_ and powers P_ with the part's. Each line becomes a hand
            value in Compare.
          </p>
        </div>
      )}
      <ol aria-label="Working" className="space-y-2">
        {lines.map((line, i) => (
          <WorkLine
            key={line.id}
            id={line.id}
            place={i + 1}
            text={line.text}
            of={line.case ?? null}
            seen={seen.get(line.id)}
            focused={line.id === fresh}
            onNext={() => add(line.id)}
          />
        ))}
      </ol>
      <Button className="mt-3" onClick={() => add()}>
        <Plus size={16} /> Line
      </Button>
    </div>
  );
}

/** Makes what a line gives a parameter, or brings the parameter up to date with it. */
function AsParameter({ name, text }: { name: string; text: string }) {
  const known = useExercise((state) => state.document.parameters.find((p) => p.name === name));
  if (known?.text === text) return <span className="shrink-0 text-xs text-soft">parameter</span>;
  return (
    <Pill
      title={`Then ${name} can be written as the value of a part`}
      onClick={() => makeParameter(name)}
      className="px-2! text-xs! opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 focus-visible:opacity-100"
    >
      {known ? "Update the parameter" : "Make a parameter"}
    </Pill>
  );
}

/** Puts what a line gives into the ledger, where voltages, currents and powers are by themselves. */
function IntoLedger({ name }: { name: string }) {
  const isThere = useExercise((state) => state.document.ledger.some((row) => row.name === name));
  if (isThere) return null;
  return (
    <Pill
      title={`Then ${name} stands in Compare, to be measured or put into formulas`}
      onClick={() => intoLedger(name)}
      className="px-2! text-xs! opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 focus-visible:opacity-100"
    >
      Into the ledger
    </Pill>
  );
}

interface WorkLineProps {
  id: string;
  place: number;
  text: string;
  /** The case it is of; null for all of them. */
  of: string | null;
  seen: LineLook | undefined;
  focused: boolean;
  onNext(): void;
}

function WorkLine({ id, place, text, of, seen, focused, onNext }: WorkLineProps) {
  const input = useRef<HTMLInputElement>(null);
  const write = (value: string) =>
    useExercise.getState().edit((document) => {
      const line = document.hand.find((candidate) => candidate.id === id);
      if (line) line.text = value;
    }, `line ${id}`);
  const remove = () =>
    useExercise.getState().edit((document) => {
      document.hand = document.hand.filter((line) => line.id !== id);
    });
  const shown = useShownCase();
  const isElsewhere = of !== null && of !== shown;
  const problem = text.trim() && seen?.problem;
  const pointAt = () => {
    if (!seen) return;
    input.current?.focus();
    input.current?.setSelectionRange(seen.at, seen.at + Math.max(seen.length, 1));
  };
  return (
    <li
      className={`group rounded-lg border border-hairline px-4 pt-2 pb-3 focus-within:border-accent ${isElsewhere ? "border-dashed" : "bg-raised"}`}
    >
      <div className="flex items-center gap-2">
        <input
          ref={input}
          aria-label={`Line ${place}`}
          aria-invalid={Boolean(problem)}
          // biome-ignore lint/a11y/noAutofocus: a line just added is the line being written
          autoFocus={focused}
          value={text}
          maxLength={500}
          spellCheck={false}
          autoComplete="off"
          placeholder="V_out = …"
          onChange={(event) => write(event.target.value)}
          onBlur={() => useExercise.getState().endGroup()}
          onKeyDown={(event) => {
            if (event.key === "Enter") onNext();
            if (event.key === "Backspace" && !text) remove();
          }}
          className="figure min-w-0 grow rounded bg-transparent py-1 text-[15px] text-hand italic placeholder:text-soft focus:outline-none"
        />
        <OfCase id={id} of={of} />
        {seen?.target && seen.typed && !/^[VIP]_/.test(seen.target) && (
          <>
            <IntoLedger name={seen.target} />
            <AsParameter name={seen.target} text={seen.typed} />
          </>
        )}
        <button
          type="button"
          aria-label={`Remove line ${place}`}
          onClick={remove}
          className="rounded p-1 text-soft opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 hover:bg-ruling focus-visible:opacity-100"
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
        seen?.latex && (
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
      {!problem && seen?.simulated && (
        <p className="mt-1 text-[13px] text-simulated">
          This draws on a simulated figure, so it is not counted as a hand value.
        </p>
      )}
    </li>
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
      className="field-sizing-content h-7 max-w-40 shrink-0 rounded-md border border-transparent bg-transparent text-xs text-soft hover:border-hairline"
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
