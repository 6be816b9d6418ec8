// A value that a part of the build shall have.
import type { Build, Part } from "../api/types";
import { useCatalogue } from "../schematic/editor/catalogue";
import { kindOf } from "../schematic/model/geometry";
import { change } from "./building";
import { PartChoice, select } from "./PartChoice";

/** A value that is not drawn: which, and what it is. */
export function FixedRow({
  fixed,
  k,
  parts,
}: {
  fixed: Build["fixed"][number];
  k: number;
  parts: Part[];
}) {
  const catalogue = useCatalogue();
  const set = (to: Partial<Build["fixed"][number]>) =>
    change((own) => Object.assign(own.fixed[k] ?? {}, to));
  const part = parts.find(({ id }) => id === fixed.part);
  const kind = part && kindOf(part, catalogue);
  const values = kind?.parameters.filter(({ reads, unit }) => reads === "quantity" && unit !== "%");
  return (
    <p className="mt-1 flex flex-wrap items-center gap-1.5">
      <PartChoice
        label="Part with a fixed value"
        parts={parts}
        value={fixed.part}
        onChange={(part) => set({ part, key: "" })}
      />
      <select
        aria-label="Which of its values"
        value={fixed.key}
        onChange={(event) => set({ key: event.target.value })}
        className={`${select} max-w-44`}
      >
        <option value="">which value</option>
        {values?.map(({ key, label }) => (
          <option key={key} value={key}>
            {label}
          </option>
        ))}
      </select>
      <input
        aria-label="Its fixed value"
        value={fixed.text}
        maxLength={40}
        placeholder={values?.find(({ key }) => key === fixed.key)?.unit}
        onChange={(event) => set({ text: event.target.value })}
        className={`${select} figure w-20`}
      />
      <button
        type="button"
        className="text-xs underline underline-offset-2"
        onClick={() => change((own) => own.fixed.splice(k, 1))}
      >
        Let it be drawn
      </button>
    </p>
  );
}
