// What is wrong with the drawing, in plain words, at the foot of the page.
import { CircleAlert, CircleCheck, CircleHelp } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import type { Finding, Mend, Schematic } from "../../api/types";
import { sheetOf, useExercise, useSheet } from "../../document/store";
import { Pill } from "../../ui/Pill";
import { useCatalogue } from "../editor/catalogue";
import { type Tool, useEditorStore } from "../editor/tools";
import { mended } from "../model/edits";

export function Findings() {
  const told = useExercise((state) => state.look?.findings);
  const unsolved = useExercise((state) => state.look?.unsolved);
  const isBehind = useExercise((state) => state.behind !== null);
  const empty = useExercise(({ document, inside }) => !sheetOf(document, inside).parts.length);
  const drawing = useStillDrawing();
  const all = told ?? [];
  const findings = drawing.still ? all.filter((finding) => !QUIET.has(finding.code)) : all;
  const waiting = all.length - findings.length;
  return (
    <section
      aria-label="Findings"
      className="max-h-[min(11rem,25vh)] shrink-0 overflow-y-auto border-t border-hairline bg-paper px-4 py-2"
    >
      {findings.length > 0 ? (
        <ul className="divide-y divide-ruling">
          {findings.map((finding) => (
            <FindingRow key={`${finding.code} ${finding.sentence}`} finding={finding} />
          ))}
        </ul>
      ) : (
        <p className="flex items-center gap-2 py-1 text-sm text-soft">
          {waiting > 0 && (
            <>
              Still drawing …
              <button type="button" className="underline underline-offset-4" onClick={drawing.ask}>
                Check now
              </button>
            </>
          )}
          {told && !empty && !unsolved && !waiting && !isBehind && (
            <CircleCheck size={16} className="text-accent" aria-hidden="true" />
          )}
          {waiting > 0
            ? null
            : !told
              ? "Checking …"
              : isBehind
                ? "Not checked since your last edit."
                : empty
                  ? unsolved
                  : (unsolved ?? "The circuit is complete and has been solved.")}
        </p>
      )}
    </section>
  );
}

// What a circuit half drawn is bound to be found with: said when the hand pauses, or when asked.
const QUIET = new Set([
  "open_pin",
  "no_ground",
  "floating",
  "unheld",
  "undetermined",
  "current_cut",
  "label_nowhere",
]);
const PAUSE = 1_500; // ms

const DRAWING: Tool["kind"][] = ["placing", "wiring", "naming", "noting"];

/** Whether the drawing was edited a moment ago, or something is under the hand; `ask` ends the wait. */
function useStillDrawing() {
  const atWork = useEditorStore((state) => DRAWING.includes(state.tool.kind));
  const sheet = useSheet();
  const edited = useExercise((state) => state.past.length > 0);
  const [checked, setChecked] = useState<Schematic | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setChecked(sheet), PAUSE);
    return () => clearTimeout(timer);
  }, [sheet]);
  return { still: atWork || (edited && checked !== sheet), ask: () => setChecked(sheet) };
}

function FindingRow({ finding }: { finding: Finding }) {
  const catalogue = useCatalogue();
  const isFault = finding.severity === "fault";
  const places = useMemo(() => {
    const { parts, wires, labels, points } = finding.place;
    return { ids: new Set([...parts, ...wires, ...labels]), points };
  }, [finding]);
  const point = (on: boolean) =>
    useEditorStore.getState().set({ focusedFinding: on ? places : null });
  const apply = (mend: Mend) => {
    useEditorStore.getState().set({ focusedFinding: null });
    useExercise.getState().draw((schematic) => mended(schematic, mend, catalogue));
  };
  const Mark = isFault ? CircleAlert : CircleHelp;
  return (
    <li
      className="flex items-center gap-2.5 py-1.5 text-sm"
      onPointerEnter={() => point(true)}
      onPointerLeave={() => point(false)}
    >
      <Mark
        size={17}
        className={`shrink-0 ${isFault ? "text-fault" : "text-doubt"}`}
        aria-label={isFault ? "Fault" : "Doubt"}
      />
      <button
        type="button"
        className="grow rounded text-left decoration-hairline underline-offset-4 hover:underline"
        onClick={() => useEditorStore.getState().choose(places.ids)}
        onFocus={() => point(true)}
        onBlur={() => point(false)}
      >
        {finding.sentence}
      </button>
      {finding.mends.map((mend) => (
        <Pill key={mend.label} onClick={() => apply(mend)} className="py-1">
          {mend.label}
        </Pill>
      ))}
    </li>
  );
}
