import { useEffect, useId, useRef, useState } from "react";
import type { Parameter, PartLook } from "../../../api/types";
import { RowField } from "../../../ui/Field";
import { Pill } from "../../../ui/Pill";
import { makeParameter, workedOut } from "../../editor/parameters";
import { isBare, nudged, plainSpaces, Slider, written } from "../Slider";

type PartLookValue = PartLook["values"][number];

interface ValueFieldProps {
  parameter: Parameter;
  text: string;
  first: boolean;
  seen: PartLookValue | undefined;
  names: string[] | undefined;
  onChange(text: string): void;
  /** One complex number was typed where the part has two values: what to write at both. */
  onInstead(values: Record<string, string>): void;
}

export function ValueField({
  parameter,
  text,
  first,
  seen,
  names,
  onChange,
  onInstead,
}: ValueFieldProps) {
  // Until the answer comes, what was said of the text before stays: nothing jumps under the hand.
  const isLate = seen?.text !== text;
  const isStale = useLonger(isLate);
  const offers = [...(seen?.offers ?? []), ...(seen?.preferred ? [seen.preferred] : [])];
  // The name of a line in Predict is one press away from being a value.
  const isWorkedOut = Boolean(seen?.problem) && workedOut(text.trim()) !== null;
  const complaint = isWorkedOut
    ? `${text.trim()} is worked out in Predict, but is no parameter yet`
    : (seen?.problem ?? seen?.question);
  const wide = parameter.reads === "formula" || parameter.reads === "points";
  const [sliding, setSliding] = useState(false);
  // A number that was set by sliding or stepping is known before it is read back.
  const set = useRef<{ text: string; number: number } | null>(null);
  const number = set.current?.text === text ? set.current.number : (seen?.number ?? null);
  const setNumber = (to: number) => {
    set.current = { text: written(to, parameter.unit), number: to };
    onChange(set.current.text);
  };
  // Left, a field says in full what was typed in it, once that is understood.
  const touched = useRef(false);
  const [isFocused, setFocused] = useState(false);
  useEffect(() => {
    if (isFocused || isLate || !seen || !touched.current) return;
    touched.current = false;
    if (Object.keys(seen.instead).length) onInstead(seen.instead);
    else if (seen.echo && isBare(text)) onChange(plainSpaces(seen.echo));
  });
  const isNumber = parameter.reads === "quantity" || parameter.reads === "any";
  const canSlide = isNumber && number !== null && text.trim() !== "";
  const list = useId();
  return (
    <div className="mt-2">
      <div className="flex items-center justify-between gap-2">
        <div className="flex min-w-0 grow">
          <RowField
            label={parameter.label}
            meaning={parameter.meaning}
            data-first={first || undefined}
            data-late={parameter.key === "tolerance" || undefined}
            value={text}
            maxLength={wide ? 80_000 : 120}
            placeholder={
              parameter.aside || parameter.reads === "any"
                ? parameter.default || undefined
                : undefined
            }
            list={names ? list : undefined}
            aria-invalid={Boolean(seen?.problem)}
            onChange={(event) => {
              touched.current = true;
              onChange(event.target.value);
            }}
            onFocus={() => {
              setSliding(true);
              setFocused(true);
            }}
            onKeyDown={(event) => {
              const way = event.key === "ArrowUp" ? 1 : event.key === "ArrowDown" ? -1 : 0;
              if (!way || !canSlide) return;
              event.preventDefault();
              setNumber(nudged(number, way, event.shiftKey, parameter));
            }}
            onBlur={() => setFocused(false)}
            look="figure"
          />
          {names && (
            <datalist id={list}>
              {names.map((name) => (
                <option key={name} value={name} />
              ))}
            </datalist>
          )}
        </div>
        <output
          aria-label={`${parameter.label} as understood`}
          className={`figure shrink-0 text-right text-[15px] whitespace-nowrap text-simulated ${isStale ? "opacity-40" : ""} ${wide ? "" : "w-19"}`}
        >
          {seen?.echo && parameter.reads !== "part" ? `= ${seen.echo}` : ""}
        </output>
      </div>
      {sliding && canSlide && (
        <Slider
          parameter={parameter}
          number={number}
          echo={seen?.echo ?? ""}
          onChange={setNumber}
        />
      )}
      {complaint && (
        <p
          className={`mt-1.5 text-[13px] leading-snug ${seen?.problem ? "text-fault" : "text-doubt"}`}
        >
          {complaint.charAt(0).toUpperCase() + complaint.slice(1)}.
        </p>
      )}
      {isWorkedOut && (
        <Pill className="mt-2" onClick={() => makeParameter(text.trim())}>
          Make it a parameter
        </Pill>
      )}
      {offers.length > 0 && (
        <div className="mt-2 flex flex-wrap gap-1.5">
          {offers.map((offer) => (
            <Pill key={offer.label} onClick={() => onChange(offer.text)}>
              {offer.label}
            </Pill>
          ))}
        </div>
      )}
    </div>
  );
}

const LONGER = 300; // ms: an answer that takes its time, and not the moment between key and answer

/** Whether it has been so for a while. */
function useLonger(isSo: boolean): boolean {
  const [longer, setLonger] = useState(false);
  useEffect(() => {
    if (!isSo) return;
    const timer = setTimeout(() => setLonger(true), LONGER);
    return () => {
      clearTimeout(timer);
      setLonger(false);
    };
  }, [isSo]);
  return longer;
}
