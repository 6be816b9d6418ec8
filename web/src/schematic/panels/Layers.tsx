// Which figures are drawn on the sheet, and how close it is looked at.
import { Maximize, Minus, Plus } from "lucide-react";
import { Toggle } from "radix-ui";
import { newRun } from "../../document/runs";
import { useExercise } from "../../document/store";
import { CommandButton } from "../../ui/Button";
import { Pill } from "../../ui/Pill";
import { useSheetCommands } from "../editor/commands";
import {
  type FiguresOf,
  showFiguresOf,
  sourcesIn,
  useFigures,
  useIsZeroAtRest,
} from "../editor/figures";
import { useEditorStore } from "../editor/tools";
import { freshId } from "../model/wires";

const NAMES = { voltage: "Voltages", current: "Currents", power: "Powers" } as const;

/** Which figures stand on the drawing, and of what. */
export function FiguresBar() {
  const isZero = useIsZeroAtRest();
  const of = useFigures((state) => state.of);
  const problem = useFigures((state) => state.problem);
  return (
    <>
      {problem && (
        <p className="w-full rounded-md bg-doubt-wash px-2.5 py-1 text-[13px]">
          No figures of the run: {problem}
        </p>
      )}
      {isZero && !of && (
        <p className="pointer-events-none! flex w-full items-center gap-2 text-[13px] text-soft">
          Nothing to show at DC.
          <span className="pointer-events-auto">
            <Pill onClick={showPhasors}>Show phasors</Pill>
          </span>
        </p>
      )}
      <LayerSwitches />
    </>
  );
}

/** Those of the first such run; where there is none yet, one is begun. */
function showPhasors(): void {
  const { document, edit } = useExercise.getState();
  const there = document.runs.find((run) => run.analysis === "phasor");
  const id = there?.id ?? freshId("r", document.runs);
  if (!there)
    edit((draft) => {
      draft.runs.push(newRun(id, "Phasors", "phasor"));
    });
  showFiguresOf({ run: id, mark: null });
}

function FiguresSource() {
  const runs = useExercise((state) => state.document.runs);
  const of = useFigures((state) => state.of);
  const at = useFigures((state) => state.at);
  const sources = sourcesIn(runs);
  // A run may bear it in its name: "Phasors at 50 Hz".
  const isNamed = runs.some(({ id, name }) => id === of?.run && name.includes(plainly(at)));
  if (!sources.length) return null;
  return (
    <>
      <select
        aria-label="Figures on the drawing are of"
        value={JSON.stringify(of)}
        onChange={(event) => showFiguresOf(JSON.parse(event.target.value) as FiguresOf | null)}
        className="h-8 field-sizing-content max-w-36 rounded-md bg-transparent px-1 text-simulated hover:bg-ruling"
      >
        <option value="null">Operating point</option>
        {sources.map(({ of, words }) => (
          <option key={JSON.stringify(of)} value={JSON.stringify(of)}>
            {words}
          </option>
        ))}
      </select>
      {at && !isNamed && (
        <output aria-label="Figures are at" className="figure px-1 text-simulated">
          {at}
        </output>
      )}
    </>
  );
}

const plainly = (text: string) => text.replaceAll("\u00a0", " ");

function LayerSwitches() {
  const layers = useEditorStore((state) => state.layers);
  const set = useEditorStore((state) => state.set);
  return (
    <div
      role="group"
      aria-label="Figures on the drawing"
      className="flex items-center gap-0.5 rounded-lg border border-hairline bg-raised/95 p-0.5 text-sm"
    >
      <FiguresSource />
      {(Object.keys(NAMES) as (keyof typeof NAMES)[]).map((layer) => (
        <Toggle.Root
          key={layer}
          pressed={layers[layer]}
          onPressedChange={(on) => set({ layers: { ...layers, [layer]: on } })}
          className="flex h-8 items-center gap-1.5 rounded-md px-2 text-soft hover:bg-ruling data-[state=on]:text-simulated"
        >
          <span
            aria-hidden="true"
            className={`size-2.5 rounded-full border border-current ${layers[layer] ? "bg-current" : ""}`}
          />
          {NAMES[layer]}
        </Toggle.Root>
      ))}
    </div>
  );
}

export function ZoomButtons() {
  const { fit, closer, farther } = useSheetCommands();
  return (
    <div className="ml-auto flex rounded-lg border border-hairline bg-raised/95">
      <CommandButton of={farther}>
        <Minus size={16} />
      </CommandButton>
      <CommandButton of={fit}>
        <Maximize size={16} />
      </CommandButton>
      <CommandButton of={closer}>
        <Plus size={16} />
      </CommandButton>
    </div>
  );
}
