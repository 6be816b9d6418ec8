// What is wrong with the drawing, in plain words, at the foot of the page.
import { CircleAlert, CircleCheck, CircleHelp } from "lucide-react";
import { useMemo } from "react";
import type { Finding, Mend } from "../api/types";
import { useExercise, useSheet } from "../exercise/store";
import { Pill } from "../ui/Pill";
import { useCatalogue } from "./catalogue";
import { mended } from "./edits";
import { useHand } from "./tools";

export function Findings() {
  const look = useExercise((state) => state.look);
  const empty = !useSheet().parts.length;
  const findings = look?.findings ?? [];
  return (
    <section
      aria-label="Findings"
      className="max-h-44 shrink-0 overflow-y-auto border-t border-hairline bg-paper px-4 py-2"
    >
      {findings.length > 0 ? (
        <ul className="divide-y divide-ruling">
          {findings.map((finding) => (
            <FindingRow key={`${finding.code} ${finding.sentence}`} finding={finding} />
          ))}
        </ul>
      ) : (
        <p className="flex items-center gap-2 py-1 text-sm text-soft">
          {look && !empty && <CircleCheck size={16} className="text-accent" aria-hidden="true" />}
          {!look
            ? "Looking …"
            : empty
              ? look.unsolved
              : "The circuit is complete and has been solved."}
        </p>
      )}
    </section>
  );
}

function FindingRow({ finding }: { finding: Finding }) {
  const catalogue = useCatalogue();
  const isFault = finding.severity === "fault";
  const places = useMemo(() => {
    const { parts, wires, labels, points } = finding.place;
    return { ids: new Set([...parts, ...wires, ...labels]), points };
  }, [finding]);
  const point = (on: boolean) => useHand.getState().set({ pointedOut: on ? places : null });
  const apply = (mend: Mend) => {
    useHand.getState().set({ pointedOut: null });
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
        onClick={() => useHand.getState().choose(places.ids)}
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
