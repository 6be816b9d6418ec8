import { ToggleGroup } from "radix-ui";
import type { ComponentProps } from "react";

export const frame =
  "mt-1 block w-full rounded-md border border-edge bg-paper px-2.5 py-1.5 text-base font-normal text-ink " +
  "focus:border-accent focus:outline-2 focus:outline-accent aria-invalid:border-fault";

interface Labelled {
  label: string;
  /** Said on pointing at the label. */
  meaning?: string;
  /** Classes of the field itself: its width, its voice. */
  look?: string;
}

/** A line of text with its label above it. */
export function Field({ label, meaning, look = "", ...rest }: Labelled & ComponentProps<"input">) {
  return (
    <label className="block text-xs font-medium text-soft" title={meaning}>
      {label}
      <input autoComplete="off" spellCheck={false} className={`${frame} ${look}`} {...rest} />
    </label>
  );
}

/** A short line of text with its label before it. */
export function RowField({
  label,
  meaning,
  look = "",
  ...rest
}: Labelled & ComponentProps<"input">) {
  return (
    <label
      className="flex min-w-0 grow items-center gap-2 text-xs leading-tight font-medium text-soft"
      title={meaning}
    >
      <span className="w-24 shrink-0">{label}</span>
      <input
        autoComplete="off"
        spellCheck={false}
        className={`${frame} mt-0! min-w-0 py-1! ${look}`}
        {...rest}
      />
    </label>
  );
}

/** Several lines of text with their label above them. */
export function LongField({
  label,
  meaning,
  look = "",
  ...rest
}: Labelled & ComponentProps<"textarea">) {
  return (
    <label className="block text-xs font-medium text-soft" title={meaning}>
      {label}
      <textarea className={`${frame} ${look}`} {...rest} />
    </label>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  options: { value: string; text: string; hint?: string }[];
  onChange(value: string): void;
}

/** One of two or three, side by side. */
export function Switched({ label, value, options, onChange }: ChoiceProps) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(to) => to && onChange(to)}
      className="mt-3 flex rounded-md border border-edge p-0.5 text-[13px]"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          title={option.hint}
          className="h-7 grow rounded px-2 text-soft hover:bg-ruling data-[state=on]:bg-ruling data-[state=on]:font-medium data-[state=on]:text-ink"
        >
          {option.text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

/** One of several, with what it means below. */
export function Choice({ label, value, options, onChange }: ChoiceProps) {
  const chosen = options.find((option) => option.value === value);
  return (
    <label className="mt-3 block text-xs font-medium text-soft">
      {label}
      <select
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className={`${frame} h-9 text-sm`}
      >
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.text}
          </option>
        ))}
      </select>
      {chosen?.hint && <span className="mt-1 block font-normal">{chosen.hint}</span>}
    </label>
  );
}
