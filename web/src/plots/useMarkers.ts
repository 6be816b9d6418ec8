// The two markers of a run: where they stand is kept with it, what stands there the server tells.
import { useCallback, useMemo, useState } from "react";
import { askOnLine } from "../api/line";
import type { Marker, MarksLook, Run, RunLook } from "../api/types";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";
import { say } from "../ui/Toasts";
import { changeRun } from "./changeRun";
import type { Jump } from "./drawing/jumps";
import { useOfResult } from "./useOfResult";

export interface Markers {
  marks: Marker[];
  /** The one that keys and jumps move: 0 for A, 1 for B. */
  active: number;
  /** What stands there, once it was told. */
  told: MarksLook | null;
  activate(k: number): void;
  set(marks: Marker[], group?: string): void;
  jump(kind: Jump): void;
}

/** Where a marker goes on to. They may stand on records of the document, too. */
const told = (result: string, marks: Marker[], jump: Jump): Promise<MarksLook> =>
  asking(useExercise.getState().document, (sent) =>
    askOnLine("marks", { ...sent, result, marks, jump }),
  );

export function useMarkers(run: Run, look: RunLook | null, again: () => void): Markers {
  const { id, markers: marks } = run;
  const result = look?.result ?? "";
  const records = useExercise((state) => state.document.records);
  const [chosen, activate] = useState(1);
  const active = Math.min(chosen, Math.max(marks.length - 1, 0));
  const question = marks.length && result ? { result, marks, jump: null } : null;
  const { answer } = useOfResult("marks", question, { of: [records], again });
  const known = answer?.told ?? null;

  const set = useCallback(
    (to: Marker[], group?: string) =>
      changeRun(
        id,
        (own) => {
          own.markers = to;
        },
        group,
      ),
    [id],
  );
  const jump = useCallback(
    async (kind: Jump) => {
      const from = marks[active];
      if (!from) return;
      try {
        const answer = await told(result, [from], kind);
        const [to] = answer.marks;
        if (answer.problem) say(answer.problem);
        else if (to) set(marks.map((mark, k) => (k === active ? to : mark)));
      } catch (error) {
        say((error as Error).message);
      }
    },
    [marks, active, result, set],
  );
  return useMemo(
    () => ({ marks, active, told: known, activate, set, jump: (kind) => void jump(kind) }),
    [marks, active, known, set, jump],
  );
}
