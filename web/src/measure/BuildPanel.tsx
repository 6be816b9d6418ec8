// What stands on the bench: which parts came out of the drawer, what is wrong with them, and the seal.
import { Dices, Lock } from "lucide-react";
import { useState } from "react";
import { askOnLine } from "../api/line";
import type { Build, Part } from "../api/types";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";
import { useCatalogue } from "../schematic/editor/catalogue";
import { kindOf } from "../schematic/model/geometry";
import { Button, IconButton } from "../ui/Button";
import { Choice, Field } from "../ui/Field";
import { Panel } from "../ui/Panel";
import { Pill } from "../ui/Pill";
import { say } from "../ui/Toasts";

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

export function BuildPanel() {
  const [open, setOpen] = useState(false);
  const build = useExercise((state) => state.document.build);
  return (
    <>
      <Button look="quiet" className="h-8 px-2 text-soft" onClick={() => setOpen(true)}>
        {build.sealed && <Lock size={14} />}
        Build {build.sealed ? "sealed" : build.seed}
      </Button>
      <Panel open={open} title="What stands on the bench" onClose={() => setOpen(false)}>
        {build.sealed ? <Sealed /> : <Open build={build} />}
      </Panel>
    </>
  );
}

const change = (to: (build: Build) => void) =>
  useExercise.getState().edit((document) => {
    to(document.build);
  }, "build");

function Open({ build }: { build: Build }) {
  const parts = useExercise((state) => state.document.schematic.parts);
  const real = parts.filter(({ kind }) => kind !== "ground");
  const [word, setWord] = useState("");
  return (
    <div className="text-sm">
      <p className="text-soft">
        The circuit is built of real parts: each drawn within its tolerance, with the imperfections
        such parts have. The same number always picks the same ones.
      </p>
      <div className="mt-2 flex items-end gap-2">
        <Field
          label="Build number"
          value={String(build.seed)}
          inputMode="numeric"
          onChange={(event) => {
            const seed = Number(event.target.value.replace(/\D/g, "").slice(0, 9));
            change((own) => Object.assign(own, { seed }));
          }}
        />
        <IconButton
          label="Other parts out of the drawer"
          onClick={() =>
            change((own) => Object.assign(own, { seed: Math.floor(Math.random() * 1e6) }))
          }
        >
          <Dices size={18} />
        </IconButton>
      </div>
      <Choice
        label="Values within their tolerance"
        value={build.distribution}
        options={[
          { value: "uniform", text: "anywhere, evenly" },
          { value: "normal", text: "more often near the middle" },
        ]}
        onChange={(distribution) => change((own) => Object.assign(own, { distribution }))}
      />
      <label className="mt-3 flex items-center gap-2">
        <input
          type="checkbox"
          checked={build.ideal}
          onChange={(event) => change((own) => Object.assign(own, { ideal: event.target.checked }))}
        />
        Without imperfections: tolerances alone
      </label>
      <div className="mt-3 flex items-end gap-2">
        <Field
          label="Temperature [°C]"
          key={build.temperature}
          defaultValue={String(build.temperature)}
          inputMode="decimal"
          onBlur={(event) => {
            const temperature = Number(event.target.value.replace(",", "."));
            if (Number.isFinite(temperature) && temperature >= -273 && temperature <= 500)
              change((own) => Object.assign(own, { temperature }));
          }}
        />
      </div>
      <h3 className="mt-4 font-serif text-base">Fixed values</h3>
      {build.fixed.map((fixed, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: they have nothing else to be known by
        <FixedRow key={k} fixed={fixed} k={k} parts={real} />
      ))}
      <Pill
        className="mt-1"
        onClick={() =>
          change((own) => own.fixed.push({ part: real[0]?.id ?? "", key: "", text: "" }))
        }
      >
        Fix a value
      </Pill>
      <h3 className="mt-4 font-serif text-base">Faults</h3>
      {build.faults.map((fault, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: faults have nothing else to be known by
        <FaultRow key={k} fault={fault} k={k} parts={real} />
      ))}
      <Pill
        className="mt-1"
        onClick={() =>
          change((own) => {
            own.faults.push({
              part: real[0]?.id ?? "",
              does: "factor",
              factor: 10,
              other: "",
              pin: 0,
              node: "",
            });
          })
        }
      >
        Plant a fault
      </Pill>
      <h3 className="mt-4 font-serif text-base">Seal</h3>
      <p className="text-soft">
        A sealed build cannot be read in the document; only this server puts it on the bench. Your
        word opens it again.
      </p>
      <form
        className="mt-1 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          void turn("seal", word);
        }}
      >
        <Field label="Word" value={word} onChange={(event) => setWord(event.target.value)} />
        <Button type="submit" disabled={!word.trim()}>
          Seal
        </Button>
      </form>
    </div>
  );
}

const select = "rounded-md border border-edge bg-paper px-1.5 py-1 text-sm";

interface ChoiceProps {
  label: string;
  parts: Part[];
  value: string;
  onChange(id: string): void;
}

function PartChoice({ label, parts, value, onChange }: ChoiceProps) {
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

/** A value that is not drawn: which, and what it is. */
function FixedRow({
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

function FaultRow({ fault, k, parts }: { fault: Fault; k: number; parts: Part[] }) {
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

function Sealed() {
  const [word, setWord] = useState("");
  return (
    <form
      className="text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        void turn("unseal", word);
      }}
    >
      <p className="text-soft">
        What stands on the bench is sealed: it is found out by measuring, and not by looking.
      </p>
      <div className="mt-2 flex items-end gap-2">
        <Field label="Word" value={word} onChange={(event) => setWord(event.target.value)} />
        <Button type="submit" disabled={!word.trim()}>
          Open it
        </Button>
      </div>
    </form>
  );
}

async function turn(way: "seal" | "unseal", word: string): Promise<void> {
  try {
    const { document } = useExercise.getState();
    const build: Build = await asking(document, (sent) => askOnLine(way, { ...sent, word }));
    useExercise.getState().edit((draft) => {
      draft.build = build;
    });
  } catch (error) {
    say((error as Error).message);
  }
}
