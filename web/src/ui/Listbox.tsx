// The list that a field of text offers below itself: gone to by arrows, taken by a press.
import { type AriaAttributes, type ReactNode, useId, useState } from "react";

export interface Choosing {
  id: string;
  /** The offer gone to; null while there is none. */
  at: number | null;
  /** Back to the first. */
  begin(): void;
  /** Goes to another by an arrow key; whether it was one. */
  step(key: string): boolean;
  /** What ties the field to the list. */
  field: AriaAttributes & { role: "combobox" };
}

/** Among `count` offers; `first` is where one begins: at none, or at the one that Enter takes. */
export function useChoosing(count: number, first: number | null): Choosing {
  const id = useId();
  const [chosen, choose] = useState(first);
  const at = !count || chosen === null ? null : Math.min(chosen, count - 1);
  return {
    id,
    at,
    begin: () => choose(first),
    step(key) {
      if (!count || (key !== "ArrowDown" && key !== "ArrowUp")) return false;
      const by = key === "ArrowDown" ? 1 : -1;
      choose(at === null ? (by > 0 ? 0 : count - 1) : (at + by + count) % count);
      return true;
    },
    field: {
      role: "combobox",
      "aria-expanded": count > 0,
      "aria-controls": id,
      "aria-activedescendant": at === null ? undefined : `${id} ${at}`,
    },
  };
}

interface Props<Offer> {
  label: string;
  choosing: Choosing;
  offers: Offer[];
  keyOf(offer: Offer): string;
  onTake(offer: Offer): void;
  /** Classes of the list, and of an offer in it. */
  look: string;
  row: string;
  isBusy?: boolean;
  /** Below the offers. */
  foot?: ReactNode;
  children(offer: Offer): ReactNode;
}

export function Listbox<Offer>({ choosing, offers, ...props }: Props<Offer>) {
  if (!offers.length) return null;
  return (
    <div
      id={choosing.id}
      role="listbox"
      aria-label={props.label}
      aria-busy={props.isBusy ?? false}
      className={props.look}
    >
      {offers.map((offer, k) => (
        <div
          key={props.keyOf(offer)}
          id={`${choosing.id} ${k}`}
          role="option"
          tabIndex={-1}
          aria-selected={k === choosing.at}
          onPointerDown={(event) => {
            event.preventDefault(); // the field keeps the focus
            props.onTake(offer);
          }}
          className={`flex cursor-pointer gap-3 px-3 hover:bg-ruling aria-selected:bg-accent-wash ${props.row}`}
        >
          {props.children(offer)}
        </div>
      ))}
      {props.foot}
    </div>
  );
}
