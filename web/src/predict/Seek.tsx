// One or two values sought so that simulated figures are met.
import { useState } from "react";
import { carryOut } from "../api/changes";
import { askOnLine } from "../api/line";
import type { SeekLook } from "../api/types";
import { useShownCase } from "../document/cases";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";
import { Button } from "../ui/Button";
import { Named } from "../ui/Named";

interface Pair {
  part: string;
  lowest: string;
  highest: string;
  row: string;
  text: string;
}

const NOTHING: Pair = { part: "", lowest: "", highest: "", row: "", text: "" };
const field = "h-9 rounded-md border border-edge bg-paper px-2 text-[15px]";

const LIMITS = [
  { key: "lowest", label: "Lower limit", placeholder: "from" },
  { key: "highest", label: "Upper limit", placeholder: "to" },
] as const;

export function Seek() {
  const document = useExercise((state) => state.document);
  const ledger = useExercise((state) => state.look?.ledger);
  const quantities = useExercise((state) => state.look?.quantities);
  const shown = useShownCase();
  const [pairs, setPairs] = useState<Pair[]>([NOTHING]);
  const [found, setFound] = useState<{ of: unknown; look: SeekLook } | null>(null);
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const rows = [
    ...new Set([
      ...(ledger ?? []).filter((row) => row.numbers[1]).map((row) => row.quantity),
      ...(quantities ?? []).map((q) => q.name),
    ]),
  ];
  const parts = document.schematic.parts
    .filter((part) => part.kind !== "ground")
    .map((part) => part.name);
  if (!rows.length || !parts.length) return null;
  const firstPart =
    ["R", "C", "L"].map((letter) => parts.find((name) => name.startsWith(letter))).find(Boolean) ??
    (parts[0] as string);
  const firstRow = rows.find((name) => name === "V_out") ?? (rows[0] as string);
  const change = (k: number, to: Partial<Pair>) =>
    setPairs(pairs.map((pair, i) => (i === k ? { ...pair, ...to } : pair)));
  const seek = async () => {
    setBusy(true);
    setTrouble("");
    setFound(null);
    const free = pairs.map(({ part, lowest, highest }) => ({
      part: part || firstPart,
      lowest,
      highest,
    }));
    const targets = pairs.map(({ row, text }) => ({ row: row || firstRow, text }));
    try {
      const look = await asking(document, (sent) =>
        askOnLine("seek", { ...sent, case: shown, free, targets }),
      );
      setFound({ of: document, look });
    } catch (error) {
      setTrouble((error as Error).message);
    }
    setBusy(false);
  };
  return (
    <section aria-label="Seek a value" className="mt-6 border-t border-ruling pt-4 pb-8">
      <h2 className="font-serif text-lg">Seek a value</h2>
      <p className="text-[13px] text-soft">
        A part's value is changed until the simulated figure is what you want.
      </p>
      <form
        className="mt-2 space-y-2"
        onSubmit={(event) => {
          event.preventDefault();
          seek();
        }}
      >
        {pairs.map((pair, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: first and second
          <div key={k} className="flex flex-wrap items-center gap-2">
            <select
              aria-label={k ? "Second part sought" : "Part sought"}
              value={pair.part || firstPart}
              onChange={(event) => change(k, { part: event.target.value })}
              className={field}
            >
              {parts.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
            {LIMITS.map(({ key, label, placeholder }) => (
              <input
                key={key}
                aria-label={k ? `${label} of the second` : label}
                value={pair[key]}
                placeholder={placeholder}
                onChange={(event) => change(k, { [key]: event.target.value })}
                className={`${field} figure w-16`}
              />
            ))}
            <span className="text-soft">so that</span>
            <select
              aria-label={k ? "Second figure to be met" : "Figure to be met"}
              value={pair.row || firstRow}
              onChange={(event) => change(k, { row: event.target.value })}
              className={`${field} figure italic`}
            >
              {rows.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
            <span className="text-soft">is</span>
            <input
              aria-label={k ? "Second value wanted" : "Value wanted"}
              value={pair.text}
              placeholder="1.5 V"
              onChange={(event) => change(k, { text: event.target.value })}
              className={`${field} figure w-20`}
            />
          </div>
        ))}
        <div className="flex gap-2">
          <Button type="submit" disabled={busy || pairs.some(({ text }) => !text.trim())}>
            {busy ? "Seeking …" : "Seek"}
          </Button>
          <Button
            look="quiet"
            onClick={() => setPairs(pairs.length > 1 ? pairs.slice(0, 1) : [...pairs, NOTHING])}
          >
            {pairs.length > 1 ? "One value only" : "And a second value"}
          </Button>
        </div>
      </form>
      <div aria-live="polite">
        {trouble && <p className="mt-2 text-[14px] text-fault">{trouble}</p>}
        {found && (
          <p className="mt-2 flex flex-wrap items-center gap-2 text-[15px]">
            <span>
              <Named text={found.look.sentence} />
            </span>
            {found.of === document && (
              <Button
                className="h-7! px-2! text-[13px]!"
                onClick={() =>
                  useExercise.getState().edit((draft) => carryOut(draft, found.look.changes))
                }
              >
                Put in
              </Button>
            )}
          </p>
        )}
      </div>
    </section>
  );
}
