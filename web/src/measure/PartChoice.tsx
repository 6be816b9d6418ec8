// One of the parts that are drawn, chosen by name.
import type { Part } from "../api/types";

export const select = "rounded-md border border-edge bg-paper px-1.5 py-1 text-sm";

interface ChoiceProps {
  label: string;
  parts: Part[];
  value: string;
  onChange(id: string): void;
}

export function PartChoice({ label, parts, value, onChange }: ChoiceProps) {
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      className={select}
    >
      {parts.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}
