// The circuit's named values: each with its expression, its result, and a slider.
import { Plus, Sigma, X } from "lucide-react";
import { Popover } from "radix-ui";
import { useRef } from "react";
import type { NamedLook, NamedValue } from "../../api/types";
import { rename } from "../../document/rename";
import { useExercise } from "../../document/store";
import { Button, IconButton } from "../../ui/Button";
import { NameField } from "../../ui/NameField";
import { say } from "../../ui/Toasts";
import { freshId } from "../model/wires";

/** Those of the open drawing: the exercise's, or a block's. */
function useParameters(): NamedValue[] {
  return useExercise(
    ({ document, inside }) =>
      document.blocks.find((block) => block.id === inside)?.parameters ?? document.parameters,
  );
}

function edit(change: (parameters: NamedValue[]) => void, group?: string) {
  const { edit: editDocument, inside } = useExercise.getState();
  editDocument((document) => {
    const block = document.blocks.find((candidate) => candidate.id === inside);
    change(block ? block.parameters : document.parameters);
  }, group);
}

export function Parameters() {
  const parameters = useParameters();
  const looks = useExercise((state) => state.look?.parameters);
  const inside = useExercise((state) => state.inside);
  const seen = new Map(looks?.map((look) => [look.id, look]));
  const add = () =>
    edit((list) => {
      const names = new Set(list.map((named) => named.name));
      let k = 1;
      while (names.has(`p_${k}`)) k++;
      list.push({ id: freshId("n", list), name: `p_${k}`, text: "1 kΩ" });
    });
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          className="flex h-9 items-center gap-1.5 rounded-lg border border-hairline bg-raised/95 px-2.5 text-sm text-soft hover:text-ink data-[state=open]:text-ink"
        >
          <Sigma size={15} aria-hidden="true" />
          <span className="sr-only @min-[46rem]:not-sr-only">Parameters</span>
          {parameters.length > 0 && <span className="figure">{parameters.length}</span>}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={8}
          aria-label="Parameters"
          className="z-30 max-h-96 w-96 overflow-y-auto rounded-xl border border-hairline bg-raised p-4 shadow-card outline-none"
        >
          <p className="text-[13px] text-soft">
            {inside
              ? "Each use of this block can set these; here are the defaults."
              : "Named values, for use in the values of parts: 2*R_1, 1/(2*pi*f_c*R_1)."}
          </p>
          <ul className="mt-2 space-y-2.5">
            {parameters.map((named) => (
              <Row key={named.id} named={named} seen={seen.get(named.id)} />
            ))}
          </ul>
          <Button className="mt-3 h-8" onClick={add}>
            <Plus size={15} /> Parameter
          </Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A number with a prefix at most, and no unit: 2k, 4k7, 1.5e3. */
const BARE = /^\s*[-+]?\d[\d.]*(?:e[-+]?\d+)?\s*[fpnuµmkKMGT]?\d*\s*$/;

function Row({ named, seen }: { named: NamedValue; seen: NamedLook | undefined }) {
  const write = (text: string) =>
    edit((list) => {
      const own = list.find((candidate) => candidate.id === named.id);
      if (own) own.text = text;
    }, `parameter ${named.id}`);
  const unit = useRef("");
  const field =
    "figure rounded-md border border-edge bg-paper px-2 py-1 text-base focus:border-accent focus:outline-2 focus:outline-accent aria-invalid:border-fault";
  return (
    <li>
      <div className="flex items-center gap-1.5">
        <NameField
          aria-label="Name of the parameter"
          value={named.name}
          maxLength={32}
          onGive={(name) => {
            const sheet = useExercise.getState().inside ?? "";
            return rename(
              [{ what: "parameter", which: named.id, name, sheet }],
              `name ${named.id}`,
            );
          }}
          onRefused={say}
          className={`${field} w-20 italic`}
        />
        <span className="text-soft">=</span>
        <input
          aria-label={`Value of ${named.name}`}
          aria-invalid={Boolean(seen?.problem)}
          value={named.text}
          maxLength={200}
          spellCheck={false}
          onFocus={() => {
            unit.current = seen?.unit ?? "";
          }}
          onBlur={() => {
            // It keeps its unit where a plain number was typed over it. What was understood may be of an
            // earlier text still, so the text itself decides.
            if (unit.current && BARE.test(named.text))
              write(`${named.text.trim()} ${unit.current}`);
          }}
          onChange={(event) => write(event.target.value)}
          className={`${field} min-w-0 grow`}
        />
        <output className="figure w-20 shrink-0 text-right text-simulated">
          {seen?.echo ?? ""}
        </output>
        <IconButton
          label={`Remove ${named.name}`}
          onClick={() => edit((list) => list.splice(list.indexOf(find(list, named.id)), 1))}
        >
          <X size={15} />
        </IconButton>
      </div>
      {seen?.problem && <p className="mt-0.5 text-[13px] text-fault">{seen.problem}.</p>}
      {seen?.echo && /^[-+\d.]/.test(named.text) && <Turn named={named} write={write} />}
    </li>
  );
}

const find = (list: NamedValue[], id: string) => list.find((n) => n.id === id) as NamedValue;

/** A slider over a decade either side, for a value that is a plain number with its unit. */
function Turn({ named, write }: { named: NamedValue; write(text: string): void }) {
  const read = /^([-+]?[\d.]+(?:e[-+]?\d+)?)(.*)$/i.exec(named.text.trim());
  const number = read ? Number(read[1]) : Number.NaN;
  if (!read || !Number.isFinite(number) || number <= 0) return null;
  return (
    <input
      type="range"
      aria-label={`${named.name}, slider`}
      aria-valuetext={named.text}
      min={0}
      max={400}
      value={Math.round(100 * (Math.log10(number) + 1))}
      onChange={(event) => {
        const to = 10 ** (Number(event.target.value) / 100 - 1);
        write(`${Number(to.toPrecision(3))}${read[2]}`);
      }}
      className="mt-1 block h-4 w-full accent-[var(--accent)]"
    />
  );
}
