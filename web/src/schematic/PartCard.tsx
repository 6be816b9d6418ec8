// The small card at a part or a node name: what it is called, its values as understood, turn, remove.
import { FlipHorizontal2, RotateCw, Trash2 } from "lucide-react";
import { Popover } from "radix-ui";
import { useEffect, useRef } from "react";
import type { Kind, Label, Part, PartLook } from "../api/types";
import { useExercise } from "../exercise/store";
import { IconButton } from "../ui/Button";
import { Field } from "../ui/Field";
import { Pill } from "../ui/Pill";
import { mirror, remove, turn } from "./actions";
import { useCatalogue } from "./catalogue";
import { bodyOf } from "./geometry";
import { useHand } from "./tools";
import type { View } from "./view";

type PartLookValue = PartLook["values"][number];

export function PartCard({ view }: { view: View }) {
  const card = useHand((state) => state.card);
  const catalogue = useCatalogue();
  const part = useExercise((s) => s.document.schematic.parts.find((item) => item.id === card));
  const label = useExercise((s) => s.document.schematic.labels.find((item) => item.id === card));
  const look = useExercise((s) => s.look?.parts.find((item) => item.id === card));
  const content = useRef<HTMLDivElement>(null);
  if (!part && !label) return null;

  const box = part
    ? bodyOf(part, catalogue)
    : {
        left: label?.at[0] ?? 0,
        right: label?.at[0] ?? 0,
        top: label?.at[1] ?? 0,
        bottom: label?.at[1] ?? 0,
      };
  const close = () => {
    useExercise.getState().endGroup();
    useHand.getState().set({ card: null });
  };
  const kind = part && catalogue.get(part.kind);
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
          aria-label={part ? `${kind?.label ?? "Part"} ${part.name}` : `Node ${label?.name}`}
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            content.current?.querySelector<HTMLInputElement>("[data-first]")?.select();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            document.querySelector<SVGElement>(".sheet")?.focus();
          }}
          onInteractOutside={(event) => {
            // A press on the sheet closes the card by itself, and may open another.
            if ((event.target as Element).closest?.(".sheet")) event.preventDefault();
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter" && event.target instanceof HTMLInputElement) close();
          }}
          className="z-30 w-72 rounded-xl border border-hairline bg-raised p-4 shadow-card outline-none"
        >
          {part ? (
            <PartFields part={part} kind={kind} look={look} />
          ) : (
            label && <LabelField label={label} />
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

interface PartFieldsProps {
  part: Part;
  kind: Kind | undefined;
  look: PartLook | undefined;
}

function PartFields({ part, kind, look }: PartFieldsProps) {
  const catalogue = useCatalogue();
  const change = (edit: (part: Part) => void, group: string) =>
    useExercise.getState().edit((document) => {
      const item = document.schematic.parts.find((candidate) => candidate.id === part.id);
      if (item) edit(item as Part);
    }, `${group} ${part.id}`);
  // Turning and removing act on what is chosen.
  useEffect(() => useHand.getState().choose([part.id]), [part.id]);
  const usual = kind?.parameters.filter((p) => !p.aside) ?? [];
  const aside = kind?.parameters.filter((p) => p.aside) ?? [];
  const field = (parameter: Kind["parameters"][number], first: boolean) => (
    <ValueField
      key={parameter.key}
      first={first}
      label={parameter.label}
      meaning={parameter.meaning}
      text={part.values[parameter.key] ?? ""}
      seen={look?.values.find((value) => value.key === parameter.key)}
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
        <input
          aria-label="Name"
          value={part.name}
          maxLength={24}
          spellCheck={false}
          disabled={!kind?.parameters.length}
          onChange={(event) =>
            change((item) => {
              item.name = event.target.value;
            }, "name")
          }
          className="w-24 min-w-0 rounded-md border border-transparent px-1.5 py-1 font-serif text-lg italic hover:border-hairline focus:border-accent focus:outline-none"
        />
        <span className="grow text-right text-xs text-soft">{kind?.label ?? part.kind}</span>
      </div>
      {usual.map((parameter, i) => field(parameter, i === 0))}
      {aside.length > 0 && (
        <details open={aside.some((p) => part.values[p.key])} className="mt-3">
          <summary className="cursor-pointer text-[13px] text-soft hover:text-ink">
            More values
          </summary>
          {aside.map((parameter) => field(parameter, false))}
        </details>
      )}
      <div className="mt-3 -mb-1 flex items-center gap-1 border-t border-hairline pt-2">
        <IconButton label="Turn" shortcut="R" onClick={() => turn(catalogue)}>
          <RotateCw size={17} />
        </IconButton>
        <IconButton label="Mirror" shortcut="M" onClick={() => mirror(catalogue)}>
          <FlipHorizontal2 size={17} />
        </IconButton>
        <span className="grow" />
        <IconButton label="Remove" shortcut="Delete" onClick={() => remove(catalogue)}>
          <Trash2 size={17} />
        </IconButton>
      </div>
    </>
  );
}

interface ValueFieldProps {
  label: string;
  meaning: string;
  text: string;
  first: boolean;
  seen: PartLookValue | undefined;
  onChange(text: string): void;
}

function ValueField({ label, meaning, text, first, seen, onChange }: ValueFieldProps) {
  const current = seen?.text === text ? seen : undefined;
  const offers = [...(current?.offers ?? []), ...(current?.preferred ? [current.preferred] : [])];
  const complaint = current?.problem ?? current?.question;
  return (
    <div className="mt-3">
      <div className="flex items-baseline justify-between gap-2">
        <div className="w-32 shrink-0">
          <Field
            label={label}
            meaning={meaning}
            data-first={first || undefined}
            value={text}
            maxLength={60}
            aria-invalid={Boolean(current?.problem)}
            onChange={(event) => onChange(event.target.value)}
            look="figure"
          />
        </div>
        <output
          aria-label={`${label} as understood`}
          className="figure text-base whitespace-nowrap text-simulated"
        >
          {current?.echo ? `= ${current.echo}` : ""}
        </output>
      </div>
      {complaint && (
        <p
          className={`mt-1.5 text-[13px] leading-snug ${current?.problem ? "text-fault" : "text-doubt"}`}
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

function LabelField({ label }: { label: Label }) {
  useEffect(() => useHand.getState().choose([label.id]), [label.id]);
  const catalogue = useCatalogue();
  return (
    <div className="flex items-end gap-2">
      <div className="grow">
        <Field
          label="Node name"
          data-first
          value={label.name}
          maxLength={32}
          onChange={(event) =>
            useExercise.getState().edit((document) => {
              const item = document.schematic.labels.find((candidate) => candidate.id === label.id);
              if (item) item.name = event.target.value;
            }, `label ${label.id}`)
          }
          look="font-serif italic"
        />
      </div>
      <IconButton label="Remove the name" shortcut="Delete" onClick={() => remove(catalogue)}>
        <Trash2 size={17} />
      </IconButton>
    </div>
  );
}
