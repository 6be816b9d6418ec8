// The working of a figure: what is asked, what came, and which of its steps are the student's own to find.
import { create } from "zustand";
import { askOnLine } from "../api/line";
import type { How, TurnLook, WorkingLook } from "../api/types";
import { AT_REST, asker, type Standing } from "../document/asker";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";

export interface Sought {
  figure: string;
  how: How;
  case: string;
}

interface Shown extends Standing {
  /** null while none is open. */
  sought: Sought | null;
  told: WorkingLook | null;
  /** The way that is looked at, by its key. */
  way: string;
  /** The steps hidden to be found, by way and place, and what was said of the line written instead. */
  turns: Record<string, TurnLook | null>;
}

const nothing: Shown = {
  sought: null,
  told: null,
  ...AT_REST,
  way: "",
  turns: {},
};

export const useWorking = create<Shown>()(() => nothing);

const line = asker("working", {
  answered: (told) =>
    useWorking.setState(({ way }) => ({
      told,
      // The way looked at stays, where it still leads there.
      way: told.ways.some((each) => each.key === way && each.steps.length > 0)
        ? way
        : (told.ways.find((each) => each.steps.length > 0)?.key ?? ""),
    })),
  stands: (now) => useWorking.setState(now.trouble ? { ...now, told: null } : now),
});

export function showWorking(sought: Sought): void {
  useWorking.setState({ ...nothing, sought });
  askAgain();
}

/** Of the document as it is now. */
export function askAgain(): void {
  const { sought } = useWorking.getState();
  if (sought) line.want(sought);
}

export function closeWorking(): void {
  useWorking.setState(nothing);
}

export const turnKey = (way: string, step: number) => `${way} ${step}`;

export function hide(way: string, step: number): void {
  useWorking.setState(({ turns }) => ({ turns: { ...turns, [turnKey(way, step)]: null } }));
}

export function reveal(way: string, step: number): void {
  useWorking.setState(({ turns }) => {
    const { [turnKey(way, step)]: _, ...rest } = turns;
    return { turns: rest };
  });
}

/** Holds a line of one's own against the step that is hidden. Rejects with what is wrong with it. */
export async function tryTurn(way: string, step: number, text: string): Promise<void> {
  const { sought } = useWorking.getState();
  if (!sought) return;
  const { document } = useExercise.getState();
  const found = await asking(document, (sent) =>
    askOnLine("turn", { ...sent, ...sought, way, step, text }),
  );
  useWorking.setState(({ turns }) => ({ turns: { ...turns, [turnKey(way, step)]: found } }));
}
