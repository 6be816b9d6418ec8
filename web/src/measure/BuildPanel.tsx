// What stands on the bench: which parts came out of the drawer, what is wrong with them, and the seal.
import { Dices, Lock } from "lucide-react";
import { useState } from "react";
import type { Build } from "../api/types";
import { useExercise } from "../document/store";
import { Button, IconButton } from "../ui/Button";
import { Choice, Field } from "../ui/Field";
import { Panel } from "../ui/Panel";
import { Pill } from "../ui/Pill";
import { change, turn } from "./building";
import { FaultRow } from "./FaultRow";
import { FixedRow } from "./FixedRow";

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
