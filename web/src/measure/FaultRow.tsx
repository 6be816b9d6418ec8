// What is wrong with a part of the build.
import type { Build, Part } from "../api/types";
import { useExercise } from "../document/store";
import { change } from "./building";
import { PartChoice, select } from "./PartChoice";

type Fault = Build["faults"][number];

const DOES: { value: Fault["does"]; text: string }[] = [
  { value: "factor", text: "has another value" },
  { value: "exchange", text: "is exchanged with" },
  { value: "open", text: "is open" },
  { value: "short", text: "is short" },
  { value: "turn", text: "is turned round" },
  { value: "wire", text: "has a wire on the wrong row" },
];
const FACTORS = ["0.001", "0.1", "10", "1000"];

export function FaultRow({ fault, k, parts }: { fault: Fault; k: number; parts: Part[] }) {
  const nets = useExercise((state) => state.look?.nets ?? []);
  const set = (to: Partial<Fault>) => change((own) => Object.assign(own.faults[k] ?? {}, to));
  const same = parts.filter(
    ({ id, kind }) => id !== fault.part && kind === parts.find((p) => p.id === fault.part)?.kind,
  );
  return (
    <p className="mt-1 flex flex-wrap items-center gap-1.5">
      <PartChoice
        label="Part that is wrong"
        parts={parts}
        value={fault.part}
        onChange={(part) => set({ part })}
      />
      <select
        aria-label="What is wrong with it"
        value={fault.does}
        onChange={(event) =>
          set({ does: event.target.value as Fault["does"], other: same[0]?.id ?? "" })
        }
        className={select}
      >
        {DOES.map(({ value, text }) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>
      {fault.does === "factor" && (
        <select
          aria-label="By what factor"
          value={String(fault.factor)}
          onChange={(event) => set({ factor: Number(event.target.value) })}
          className={select}
        >
          {FACTORS.map((factor) => (
            <option key={factor} value={factor}>
              × {factor}
            </option>
          ))}
        </select>
      )}
      {fault.does === "exchange" && (
        <PartChoice
          label="With which part"
          parts={same}
          value={fault.other}
          onChange={(other) => set({ other })}
        />
      )}
      {fault.does === "wire" && (
        <select
          aria-label="On the row of node"
          value={fault.node}
          onChange={(event) => set({ node: event.target.value })}
          className={select}
        >
          <option value="">which node</option>
          {nets
            .filter(({ ground }) => !ground)
            .map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
        </select>
      )}
      <button
        type="button"
        className="text-xs underline underline-offset-2"
        onClick={() => change((own) => own.faults.splice(k, 1))}
      >
        Mend
      </button>
    </p>
  );
}
