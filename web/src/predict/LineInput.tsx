// Where a line is written: names are completed with what they mean, what is not known is coloured.
import { type Ref, useImperativeHandle, useRef, useState } from "react";
import { useExercise } from "../document/store";
import { Listbox, useChoosing } from "../ui/Listbox";
import { Named } from "../ui/Named";
import { type Offer, offersFor, wordBefore } from "./completing";
import { useVocabulary } from "./vocabulary";

interface Props {
  ref: Ref<HTMLInputElement>;
  label: string;
  value: string;
  /** The place of what is not understood. */
  unknown: { at: number; length: number } | null;
  focused: boolean;
  onWrite(text: string): void;
  onNext(): void;
  onEmptied(): void;
}

const TEXT = "figure py-1 text-[15px] italic";

export function LineInput(props: Props) {
  const { ref, label, value, unknown, focused, onWrite, onNext, onEmptied } = props;
  const input = useRef<HTMLInputElement>(null);
  useImperativeHandle(ref, () => input.current as HTMLInputElement);
  const vocabulary = useVocabulary();
  const [offers, setOffers] = useState<Offer[]>([]);
  // Enter takes the one that is gone to; until then it goes on to the next line.
  const choosing = useChoosing(offers.length, null);
  const [scrolled, setScrolled] = useState(0);

  const close = () => {
    setOffers([]);
    choosing.begin();
  };
  const look = (text: string, caret: number) => {
    setOffers(offersFor(text, caret, vocabulary));
    choosing.begin();
  };
  const take = (offer: Offer) => {
    const field = input.current;
    if (!field) return;
    const caret = field.selectionStart ?? value.length;
    const from = caret - wordBefore(value, caret).length;
    // Put in at once, so that what is typed on comes behind it.
    field.setRangeText(offer.insert, from, caret, "end");
    if (offer.insert.endsWith("()")) {
      const between = from + offer.insert.length - 1;
      field.setSelectionRange(between, between);
    }
    onWrite(field.value);
    close();
    field.focus();
  };
  return (
    <div className="relative min-w-0 grow">
      {unknown && (
        <div
          aria-hidden="true"
          className={`${TEXT} pointer-events-none absolute inset-0 overflow-hidden whitespace-pre text-hand`}
        >
          <span className="inline-block" style={{ translate: `${-scrolled}px 0` }}>
            {value.slice(0, unknown.at)}
            <span className="text-fault">
              {value.slice(unknown.at, unknown.at + Math.max(unknown.length, 1))}
            </span>
            {value.slice(unknown.at + Math.max(unknown.length, 1))}
          </span>
        </div>
      )}
      <input
        ref={input}
        {...choosing.field}
        aria-label={label}
        aria-invalid={Boolean(unknown)}
        aria-autocomplete="list"
        // biome-ignore lint/a11y/noAutofocus: a line just added is the line being written
        autoFocus={focused}
        value={value}
        maxLength={500}
        spellCheck={false}
        autoComplete="off"
        placeholder="V_out = …"
        onScroll={(event) => setScrolled(event.currentTarget.scrollLeft)}
        onChange={(event) => {
          const { value: text, selectionStart } = event.target;
          onWrite(text);
          look(text, selectionStart ?? text.length);
        }}
        onBlur={() => {
          close();
          useExercise.getState().endGroup();
        }}
        onKeyDown={(event) => {
          const count = offers.length;
          const chosen = choosing.at === null ? null : (offers[choosing.at] ?? null);
          if (choosing.step(event.key)) {
            event.preventDefault();
          } else if (count && event.key === "Tab" && !event.shiftKey) {
            event.preventDefault();
            take(chosen ?? (offers[0] as Offer));
          } else if (count && event.key === "Escape") {
            event.stopPropagation();
            close();
          } else if (event.key === "Enter") {
            if (chosen) take(chosen);
            else onNext();
          } else if (event.key === "Backspace" && !value) onEmptied();
        }}
        className={`${TEXT} relative w-full rounded bg-transparent placeholder:text-soft focus:outline-none ${unknown ? "text-transparent caret-ink" : "text-hand"}`}
      />
      <Listbox
        label="Names"
        choosing={choosing}
        offers={offers}
        keyOf={({ insert }) => insert}
        onTake={take}
        look="absolute top-full left-0 z-20 mt-1 min-w-64 rounded-lg border border-hairline bg-raised py-1 shadow-card"
        row="items-baseline py-0.5 text-[14px]"
        foot={
          <p className="px-3 pt-1 text-[12px] text-soft">Tab takes the first, arrows another.</p>
        }
      >
        {({ name, meaning, value: known }) => (
          <>
            <span className="figure shrink-0 italic">
              <Named text={name} />
            </span>
            <span className="grow truncate text-[13px] text-soft">{meaning}</span>
            <span className="figure shrink-0 text-[13px]">{known}</span>
          </>
        )}
      </Listbox>
    </div>
  );
}
