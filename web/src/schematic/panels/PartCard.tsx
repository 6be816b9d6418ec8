// The small card at a part or a node name: what it is called, its values as understood, turn, remove.
import { ArrowUpToLine, FlipHorizontal2, Replace, RotateCw, Trash2 } from "lucide-react";
import { Popover } from "radix-ui";
import { memo, type ReactNode, useEffect, useId, useRef, useState } from "react";
import type { Kind, Label, Note, Parameter, Part, PartLook } from "../../api/types";
import { rename } from "../../document/rename";
import { sheetOf, useExercise } from "../../document/store";
import { IconButton } from "../../ui/Button";
import { Choice, frame, LongField, RowField, Switched } from "../../ui/Field";
import { Menu, MenuItem } from "../../ui/Menu";
import { NameField } from "../../ui/NameField";
import { Pill } from "../../ui/Pill";
import { say } from "../../ui/Toasts";
import { noteBox } from "../annotations/noteBox";
import { mirror, remove, replace, turn } from "../hand/actions";
import { enterBlock } from "../hand/blocks";
import { useCatalogue } from "../hand/catalogue";
import { useShape } from "../hand/shape";
import { useHand } from "../hand/tools";
import { bodyOf, kindOf, spanned } from "../model/geometry";
import type { View } from "../model/view";
import { FromTable } from "./FromTable";
import { isBare, nudged, plainSpaces, Slider, written } from "./Slider";
import { WavePicture } from "./WavePicture";

type PartLookValue = PartLook["values"][number];

export const PartCard = memo(function PartCard({ view }: { view: View }) {
  const card = useHand((state) => state.card);
  const catalogue = useCatalogue();
  // What stands in the card follows by itself; the card is put up anew only where its place changes.
  const sheet = useShape();
  const part = sheet.parts.find((item) => item.id === card);
  const label = sheet.labels.find((item) => item.id === card);
  const note = sheet.notes.find((item) => item.id === card);
  const content = useRef<HTMLDivElement>(null);
  if (!part && !label && !note) return null;

  const box = part
    ? bodyOf(part, catalogue)
    : note
      ? noteBox(note)
      : spanned(label?.at ?? [0, 0], label?.at ?? [0, 0]);
  const close = () => {
    useExercise.getState().endGroup();
    useHand.getState().set({ card: null });
  };
  const kind = part && kindOf(part, catalogue);
  return (
    <Popover.Root open onOpenChange={(open) => !open && close()} key={card}>
      <Popover.Anchor
        className="pointer-events-none absolute"
        style={{
          left: (box.left - view.x) * view.scale,
          top: (box.top - view.y) * view.scale,
          width: (box.right - box.left) * view.scale,
          height: (box.bottom - box.top) * view.scale,
        }}
      />
      <Popover.Portal>
        <Popover.Content
          ref={content}
          side="right"
          sideOffset={14}
          collisionPadding={12}
          aria-label={
            part ? `${kind?.label ?? "Part"} ${part.name}` : note ? "Note" : `Node ${label?.name}`
          }
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            content.current?.querySelector<HTMLInputElement>("[data-first]")?.select?.();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            document.querySelector<HTMLElement>(".sheet")?.focus();
          }}
          onInteractOutside={(event) => {
            // A press on the sheet closes the card by itself, and may open another.
            if ((event.target as Element).closest?.(".sheet")) event.preventDefault();
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter" && event.target instanceof HTMLInputElement) close();
          }}
          className="z-30 max-h-[var(--radix-popover-content-available-height)] w-80 overflow-y-auto rounded-xl border border-hairline bg-raised p-4 shadow-card outline-none"
        >
          {part ? (
            <PartFields id={part.id} />
          ) : note ? (
            <NoteField note={note} />
          ) : (
            label && <LabelField label={label} />
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
});

const PartFields = memo(function PartFields({ id }: { id: string }) {
  const part = useExercise(({ document, inside }) =>
    sheetOf(document, inside).parts.find((item) => item.id === id),
  );
  const look = useExercise((state) => state.look?.parts.find((item) => item.id === id));
  return part && <Fields part={part} look={look} />;
});

function Fields({ part, look }: { part: Part; look: PartLook | undefined }) {
  const catalogue = useCatalogue();
  const kind = kindOf(part, catalogue);
  const change = (edit: (part: Part) => void, group: string) =>
    useExercise.getState().editSheet((schematic) => {
      const item = schematic.parts.find((candidate) => candidate.id === part.id);
      if (item) edit(item as Part);
    }, `${group} ${part.id}`);
  // Turning and removing act on what is chosen.
  useEffect(() => useHand.getState().choose([part.id]), [part.id]);
  const form = part.form || (kind?.forms[0]?.key ?? "");
  const asked = kind?.parameters.filter((p) => !p.forms.length || p.forms.includes(form)) ?? [];
  const usual = asked.filter((p) => !p.aside);
  const aside = asked.filter((p) => p.aside && !p.practical);
  const practical = asked.filter((p) => p.practical);
  const isWave = part.kind.endsWith("_source") && form !== "constant";
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
      {kind && kind.forms.length > 1 && (
        <Choice
          label={part.kind.endsWith("_source") ? "In time" : "Model"}
          value={form}
          options={kind.forms.map((f) => ({ value: f.key, text: f.label, hint: f.meaning }))}
          onChange={(to) =>
            change((item) => {
              item.form = to === kind.forms[0]?.key ? "" : to;
              for (const p of kind.parameters)
                if (!(p.key in item.values)) item.values[p.key] = kind.values[p.key] ?? "";
            }, "form")
          }
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
          open={aside.some((p) => part.values[p.key] && part.values[p.key] !== kind?.values[p.key])}
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
      <IconButton label="Turn" shortcut="R" onClick={() => turn(catalogue)}>
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

interface ValueFieldProps {
  parameter: Parameter;
  text: string;
  first: boolean;
  seen: PartLookValue | undefined;
  names: string[] | undefined;
  onChange(text: string): void;
}

function ValueField({ parameter, text, first, seen, names, onChange }: ValueFieldProps) {
  // Until the answer comes, what was said of the text before stays: nothing jumps under the hand.
  const isLate = seen?.text !== text;
  const isStale = useLonger(isLate);
  const offers = [...(seen?.offers ?? []), ...(seen?.preferred ? [seen.preferred] : [])];
  const complaint = seen?.problem ?? seen?.question;
  const wide = parameter.reads === "formula" || parameter.reads === "points";
  const [sliding, setSliding] = useState(false);
  // A number that was set by sliding or stepping is known before it is read back.
  const set = useRef<{ text: string; number: number } | null>(null);
  const number = set.current?.text === text ? set.current.number : (seen?.number ?? null);
  const setNumber = (to: number) => {
    set.current = { text: written(to, parameter.unit), number: to };
    onChange(set.current.text);
  };
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
            value={text}
            maxLength={wide ? 80_000 : 120}
            placeholder={
              parameter.aside || parameter.reads === "any"
                ? parameter.default || undefined
                : undefined
            }
            list={names ? list : undefined}
            aria-invalid={Boolean(seen?.problem)}
            onChange={(event) => onChange(event.target.value)}
            onFocus={() => setSliding(true)}
            onKeyDown={(event) => {
              const way = event.key === "ArrowUp" ? 1 : event.key === "ArrowDown" ? -1 : 0;
              if (!way || !canSlide) return;
              event.preventDefault();
              setNumber(nudged(number, way, event.shiftKey, parameter));
            }}
            onBlur={() => {
              if (!isLate && seen?.echo && isBare(text)) onChange(plainSpaces(seen.echo));
            }}
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

/** Whether another place bears this name: the same name joins them. */
function isElsewhere(label: Label, name: string): boolean {
  const { document, inside } = useExercise.getState();
  return sheetOf(document, inside).labels.some((l) => l.id !== label.id && l.name === name);
}

/** The node's name, wherever it is spoken of; or that of this place alone, where the name it had or gets
 * is another's too: that parts or joins nodes. */
async function renameNode(label: Label, name: string): Promise<void> {
  const { inside, editSheet } = useExercise.getState();
  const group = `name ${label.id}`;
  if (!isElsewhere(label, label.name) && !isElsewhere(label, name))
    return rename([{ what: "node", which: label.name, name, sheet: inside ?? "" }], group);
  editSheet((schematic) => {
    const item = schematic.labels.find((candidate) => candidate.id === label.id);
    if (item) item.name = name;
  }, group);
}

function LabelField({ label }: { label: Label }) {
  useEffect(() => useHand.getState().choose([label.id]), [label.id]);
  const field = useId();
  const catalogue = useCatalogue();
  return (
    <div className="flex items-end gap-2">
      <div className="grow">
        <label htmlFor={field} className="block text-xs font-medium text-soft">
          Node name
        </label>
        <NameField
          id={field}
          data-first
          value={label.name}
          maxLength={32}
          onGive={(name) => renameNode(label, name)}
          waits={(name) => isElsewhere(label, name)}
          onRefused={say}
          className={`${frame} font-serif italic`}
        />
      </div>
      <IconButton
        label={label.style === "supply" ? "Draw it as a name" : "Draw it as a supply"}
        aria-pressed={label.style === "supply"}
        onClick={() =>
          useExercise.getState().editSheet((schematic) => {
            const item = schematic.labels.find((candidate) => candidate.id === label.id);
            if (item) item.style = label.style === "supply" ? "name" : "supply";
          })
        }
      >
        <ArrowUpToLine size={17} />
      </IconButton>
      <IconButton label="Remove the name" shortcut="Delete" onClick={() => remove(catalogue)}>
        <Trash2 size={17} />
      </IconButton>
    </div>
  );
}

function NoteField({ note }: { note: Note }) {
  useEffect(() => useHand.getState().choose([note.id]), [note.id]);
  const catalogue = useCatalogue();
  return (
    <>
      <LongField
        label="Note"
        data-first
        autoFocus
        rows={4}
        value={note.text}
        maxLength={1000}
        placeholder="Text; a formula between dollar signs, as in $f_c = 1/(2\\pi RC)$"
        onChange={(event) =>
          useExercise.getState().editSheet((schematic) => {
            const item = schematic.notes.find((candidate) => candidate.id === note.id);
            if (item) item.text = event.target.value;
          }, `note ${note.id}`)
        }
      />
      <div className="mt-2 flex justify-end">
        <IconButton label="Remove the note" shortcut="Delete" onClick={() => remove(catalogue)}>
          <Trash2 size={17} />
        </IconButton>
      </div>
    </>
  );
}
