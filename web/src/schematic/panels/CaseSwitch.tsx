// Which case is looked at; how cases are made, named and thrown away.
import { Check, ChevronDown } from "lucide-react";
import { useState } from "react";
import { BASE, BASE_NAME, lookAtCase, nameOfCase, useShownCase } from "../../document/cases";
import { useExercise } from "../../document/store";
import { Menu, MenuItem, MenuLine } from "../../ui/Menu";
import { say } from "../../ui/Toasts";
import { keepBefore, newCase, removeCase } from "../editor/cases";

export function CaseSwitch() {
  const cases = useExercise((state) => state.document.cases);
  const shown = useShownCase();
  const name = useExercise(({ document }) => nameOfCase(document, shown));
  const [asked, setAsked] = useState<"name" | "new" | null>(null);
  if (asked === "new") return <New onDone={() => setAsked(null)} />;
  if (asked && shown !== BASE) return <Naming id={shown} onDone={() => setAsked(null)} />;
  return (
    <Menu
      trigger={
        <button
          type="button"
          aria-label={cases.length ? `Case: ${name}` : "Cases"}
          className={`flex h-9 max-w-52 items-center gap-1.5 rounded-lg border px-2.5 text-sm ${shown === BASE ? "border-hairline bg-raised/95 text-soft" : "border-accent bg-accent-wash font-medium text-accent"}`}
        >
          <span className="truncate">{cases.length ? name : "Cases"}</span>
          <ChevronDown size={14} />
        </button>
      }
    >
      {cases.length > 0 &&
        [BASE, ...cases.map(({ id }) => id)].map((id, k) => (
          <MenuItem key={id} onSelect={() => lookAtCase(id)}>
            <span className="w-4">{id === shown && <Check size={14} />}</span>
            {k ? nameOfCase(useExercise.getState().document, id) : BASE_NAME}
          </MenuItem>
        ))}
      {cases.length > 0 && <MenuLine />}
      <MenuItem onSelect={() => setAsked("new")}>
        {shown === BASE ? "New case …" : "New case like this one …"}
      </MenuItem>
      <MenuItem onSelect={before}>Keep the circuit before the last edit as a case</MenuItem>
      {shown !== BASE && (
        <>
          <MenuLine />
          <MenuItem onSelect={() => setAsked("name")}>Rename this case …</MenuItem>
          <MenuItem onSelect={() => removed(shown)}>Remove this case</MenuItem>
        </>
      )}
    </Menu>
  );
}

function before(): void {
  const kept = keepBefore();
  if (kept)
    say("The circuit as it was is the case “Before”.", {
      label: "Look at it",
      run: () => lookAtCase(kept),
    });
  else
    say(
      "The last edit changed more than values: only values and parts that came in can be kept as a case.",
    );
}

function removed(id: string): void {
  const name = nameOfCase(useExercise.getState().document, id);
  removeCase(id);
  say(`The case ${name} is gone, with what belonged to it.`, {
    label: "Undo",
    run: () => useExercise.getState().undo(),
  });
}

/** A new case, typed: what it changes, or a name. */
function New({ onDone }: { onDone(): void }) {
  const [problem, setProblem] = useState<string | null>(null);
  return (
    <span className="flex flex-col gap-1">
      {problem && (
        <span
          role="alert"
          className="max-w-80 rounded-md bg-fault-wash px-2 py-1 text-xs text-fault"
        >
          {problem.charAt(0).toUpperCase() + problem.slice(1)}.
        </span>
      )}
      <input
        aria-label="A new case"
        aria-invalid={Boolean(problem)}
        // biome-ignore lint/a11y/noAutofocus: it was asked for just now
        autoFocus
        placeholder="without R5, R3 = 1.1k"
        maxLength={120}
        spellCheck={false}
        onChange={() => setProblem(null)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Escape") onDone();
          if (event.key !== "Enter") return;
          newCase(event.currentTarget.value).then(onDone, (error: Error) =>
            setProblem(error.message.replace(/\.$/, "")),
          );
        }}
        onBlur={onDone}
        className="h-9 w-64 rounded-lg border border-accent bg-raised px-2.5 text-sm aria-invalid:border-fault"
      />
    </span>
  );
}

function Naming({ id, onDone }: { id: string; onDone(): void }) {
  const name = useExercise(({ document }) => nameOfCase(document, id));
  return (
    <input
      aria-label="Name of the case"
      // biome-ignore lint/a11y/noAutofocus: it was asked for just now
      autoFocus
      onFocus={(event) => event.currentTarget.select()}
      defaultValue={name}
      maxLength={120}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Escape") onDone();
        if (event.key === "Enter") event.currentTarget.blur();
      }}
      onBlur={(event) => {
        const text = event.target.value.trim();
        if (text && text !== name)
          useExercise.getState().edit((document) => {
            const own = document.cases.find((each) => each.id === id);
            if (own) own.name = text;
          });
        onDone();
      }}
      className="h-9 w-44 rounded-lg border border-accent bg-raised px-2.5 text-sm"
    />
  );
}
