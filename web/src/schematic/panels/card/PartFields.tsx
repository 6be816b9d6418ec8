// What a part is: its name, how it is modelled, its values, and what can be done with it.
import { FlipHorizontal2, Replace, RotateCw, Trash2 } from "lucide-react";
import { memo, type ReactNode, useEffect, useState } from "react";
import { api, ask } from "../../../api/client";
import type { CaseChange, Kind, Parameter, Part, PartLook } from "../../../api/types";
import { BASE, changeOf, inCase, nameOfCase, useShownCase } from "../../../document/cases";
import { rename } from "../../../document/rename";
import { sheetOf, useExercise } from "../../../document/store";
import { IconButton } from "../../../ui/Button";
import { Choice, Switched } from "../../../ui/Field";
import { Menu, MenuItem } from "../../../ui/Menu";
import { NameField } from "../../../ui/NameField";
import { Pill } from "../../../ui/Pill";
import { say } from "../../../ui/Toasts";
import { mirror, remove, replace, turn } from "../../editor/actions";
import { enterBlock } from "../../editor/blocks";
import { asDrawn, editInCase } from "../../editor/cases";
import { useCatalogue } from "../../editor/catalogue";
import { useEditorStore } from "../../editor/tools";
import { kindOf } from "../../model/geometry";
import { FromTable } from "../FromTable";
import { WavePicture } from "../WavePicture";

import { ValueField } from "./ValueField";

export const PartFields = memo(function PartFields({ id }: { id: string }) {
  const part = useExercise(({ document, inside }) =>
    sheetOf(document, inside).parts.find((item) => item.id === id),
  );
  const look = useExercise((state) => state.look?.parts.find((item) => item.id === id));
  const shown = useShownCase();
  const own = useExercise(({ document, inside }) => changeOf(document, shown, id, inside));
  return part && <Fields base={part} own={own} shown={shown} look={look} />;
});

interface FieldsProps {
  /** The part as it is drawn. */
  base: Part;
  /** What is changed of it in the case that is looked at. */
  own: CaseChange | undefined;
  shown: string;
  look: PartLook | undefined;
}

function Fields({ base, own, shown, look }: FieldsProps) {
  const catalogue = useCatalogue();
  const part = inCase(base, own);
  const kind = kindOf(part, catalogue);
  // What is written while a case is looked at is of the case.
  const change = (edit: (part: Part) => void, group: string) =>
    shown !== BASE && group !== "textbook"
      ? editInCase(shown, base, edit, `${group} ${part.id}`)
      : useExercise.getState().editSheet((schematic) => {
          const item = schematic.parts.find((candidate) => candidate.id === part.id);
          if (item) edit(item as Part);
        }, `${group} ${part.id}`);
  // Turning and removing act on what is chosen.
  useEffect(() => useEditorStore.getState().choose([part.id]), [part.id]);
  const form = part.form || (kind?.forms[0]?.key ?? "");
  const asked = kind?.parameters.filter((p) => !p.forms.length || p.forms.includes(form)) ?? [];
  const usual = asked.filter((p) => !p.aside);
  const aside = asked.filter((p) => p.aside && !p.practical);
  const practical = asked.filter((p) => p.practical);
  const isSource = part.kind.endsWith("_source");
  const isWave = isSource && form !== "constant";
  const field = (parameter: Parameter, first: boolean) => (
    <ValueField
      key={parameter.key}
      first={first}
      parameter={parameter}
      text={part.values[parameter.key] ?? ""}
      seen={look?.values.find((value) => value.key === parameter.key)}
      names={parameter.reads === "part" ? namesBeside(part.id) : undefined}
      onChange={(text) =>
        change((item) => {
          item.values[parameter.key] = text;
        }, parameter.key)
      }
      onInstead={(values) =>
        change((item) => {
          Object.assign(item.values, values);
        }, parameter.key)
      }
    />
  );
  return (
    <>
      <div className="flex items-center gap-1">
        <NameField
          aria-label="Name"
          value={part.name}
          maxLength={24}
          disabled={part.kind === "ground"}
          onGive={(name) => {
            const sheet = useExercise.getState().inside ?? "";
            return rename([{ what: "part", which: part.id, name, sheet }], `name ${part.id}`);
          }}
          onRefused={say}
          className="w-24 min-w-0 rounded-md border border-transparent px-1.5 py-1 font-serif text-lg italic hover:border-hairline focus:border-accent focus:outline-none"
        />
        <span className="grow text-right text-xs text-soft">{kind?.label ?? part.kind}</span>
      </div>
      {shown !== BASE && <InCase part={part} own={own} shown={shown} />}
      {kind && kind.forms.length > 1 && (
        <Choice
          label={isSource ? "Waveform" : "Model"}
          value={form}
          options={kind.forms.map((f) => ({ value: f.key, text: f.label, hint: f.meaning }))}
          onChange={async (to) => {
            const values = isSource ? await inWaveform(part, to) : kind.values;
            change((item) => {
              item.form = to === kind.forms[0]?.key ? "" : to;
              item.values = isSource ? values : { ...values, ...item.values };
            }, "form");
          }}
        />
      )}
      {isWave && <WavePicture part={part} />}
      {(form === "samples" || form === "piecewise") && (
        <FromTable
          onRead={({ form, values }) =>
            change((item) => {
              item.form = form;
              Object.assign(item.values, values);
            }, "table")
          }
        />
      )}
      {usual.map((parameter, i) => field(parameter, i === 0))}
      {kind && kind.presets.length > 0 && (
        <div className="mt-3 flex flex-wrap gap-1.5">
          {kind.presets.map((preset) => (
            <Pill
              key={preset.label}
              onClick={() =>
                change((item) => {
                  Object.assign(item.values, preset.values);
                }, "preset")
              }
            >
              {preset.label}
            </Pill>
          ))}
        </div>
      )}
      {kind && practical.length > 0 && (
        <Practical
          part={part}
          adds={kind.practical}
          change={change}
          isGiven={practical.some((p) => part.values[p.key])}
        >
          {practical.map((parameter) => field(parameter, false))}
        </Practical>
      )}
      {aside.length > 0 && (
        <details
          open={aside.some(({ key, default: usual }) => {
            const text = part.values[key];
            return text && text !== usual && text !== kind?.values[key];
          })}
          className="mt-3"
        >
          <summary className="cursor-pointer text-[13px] text-soft hover:text-ink">
            More values
          </summary>
          {aside.map((parameter) => field(parameter, false))}
        </details>
      )}
      <Foot id={part.id} kind={kind} block={part.block ?? ""} />
    </>
  );
}

/** That what is written here is of one case, and what else can be done with the part in it. */
function InCase({ part, own, shown }: { part: Part; own: CaseChange | undefined; shown: string }) {
  const name = useExercise(({ document }) => nameOfCase(document, shown));
  const told = { open: "left out", short: "shorted", replace: "with other values" };
  return (
    <p className="mt-1 rounded-md bg-accent-wash px-2 py-1 text-xs">
      In “{name}”{own ? ` ${told[own.does]}` : " as drawn; what is written here is of this case"}.
      {own && (
        <>
          {" "}
          <button
            type="button"
            className="underline underline-offset-2"
            onClick={() => asDrawn([part])}
          >
            As drawn again
          </button>
        </>
      )}
    </p>
  );
}

/** The values of a source with another waveform: it stays as large and as frequent as it was. */
async function inWaveform(part: Part, form: string): Promise<Record<string, string>> {
  try {
    return await ask<Record<string, string>>(
      api.POST("/api/waveform/other", { body: { part, form } }),
    );
  } catch (error) {
    say((error as Error).message);
    return part.values;
  }
}

/** The names of the parts on the sheet but the one of this id. */
function namesBeside(id: string): string[] {
  const { document, inside } = useExercise.getState();
  const others = sheetOf(document, inside).parts.filter((p) => p.kind !== "ground" && p.id !== id);
  return others.map((other) => other.name);
}

interface FootProps {
  id: string;
  kind: Kind | undefined;
  /** The block it is a use of; "" for none. */
  block: string;
}

/** What can be done with the part itself. */
const Foot = memo(function Foot({ id, kind, block }: FootProps) {
  const catalogue = useCatalogue();
  return (
    <div className="mt-3 -mb-1 flex items-center gap-1 border-t border-hairline pt-2">
      <IconButton label="Rotate" shortcut="R" onClick={() => turn(catalogue)}>
        <RotateCw size={17} />
      </IconButton>
      <IconButton label="Mirror" shortcut="M" onClick={() => mirror(catalogue)}>
        <FlipHorizontal2 size={17} />
      </IconButton>
      {kind && <ReplaceMenu id={id} kind={kind} />}
      {block && <Pill onClick={() => enterBlock(block)}>Open its drawing</Pill>}
      <span className="grow" />
      <IconButton label="Remove" shortcut="Delete" onClick={() => remove(catalogue)}>
        <Trash2 size={17} />
      </IconButton>
    </div>
  );
});

interface PracticalProps {
  part: Part;
  adds: string;
  isGiven: boolean;
  change(edit: (part: Part) => void, group: string): void;
  children: ReactNode;
}

/** The textbook's ideal part, or the one with its imperfections; what was written for these is kept. */
function Practical({ part, adds, isGiven, change, children }: PracticalProps) {
  const [asked, setAsked] = useState(false);
  const isPractical = !part.textbook && (isGiven || asked);
  const choose = (practical: boolean) => {
    setAsked(practical);
    if (isGiven || part.textbook)
      change((item) => {
        item.textbook = !practical;
      }, "textbook");
  };
  return (
    <>
      <Switched
        label="Model"
        value={isPractical ? "practical" : "textbook"}
        options={[
          { value: "textbook", text: "Textbook" },
          { value: "practical", text: "Practical" },
        ]}
        onChange={(to) => choose(to === "practical")}
      />
      <p className="mt-1 text-xs text-soft">
        {isPractical ? `With ${adds}.` : `Practical adds ${adds}.`}
      </p>
      {isPractical && children}
    </>
  );
}

/** The kinds with as many pins, any of which may take this one's place. */
function ReplaceMenu({ id, kind }: { id: string; kind: Kind }) {
  const catalogue = useCatalogue();
  const others = [...catalogue.values()].filter(
    (other) => other.key !== kind.key && other.pins.length === kind.pins.length,
  );
  if (!others.length || kind.key === "ground") return null;
  return (
    <Menu
      trigger={
        <button
          type="button"
          aria-label="Replace by another part"
          title="Replace by another part"
          className="inline-flex size-9 items-center justify-center rounded-md hover:bg-ruling"
        >
          <Replace size={17} />
        </button>
      }
    >
      {others.map((other) => (
        <MenuItem key={other.key} onSelect={() => replace(id, other, catalogue)}>
          {other.label}
        </MenuItem>
      ))}
    </Menu>
  );
}
