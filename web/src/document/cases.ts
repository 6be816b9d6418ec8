// Cases: variants of the circuit. Which is looked at, and what a part is in it.
import type { CaseChange, Exercise, Part } from "../api/types";
import { useExercise } from "./store";

/** The circuit as it is drawn. */
export const BASE = "";
export const BASE_NAME = "As drawn";

/** The case that is looked at; the circuit as drawn where that is gone. */
export const shownCase = (state: { document: Exercise; shownCase: string }): string =>
  state.document.cases?.some(({ id }) => id === state.shownCase) ? state.shownCase : BASE;

export const useShownCase = (): string => useExercise(shownCase);

export function nameOfCase(document: Exercise, id: string): string {
  const k = document.cases.findIndex((each) => each.id === id);
  return k < 0 ? BASE_NAME : document.cases[k]?.name || `Case ${k + 1}`;
}

export const lookAtCase = (id: string) => useExercise.setState({ shownCase: id, group: null });

/** How a case speaks of a part: by its id, and where it is in a block's drawing by that too. */
export const referenceTo = (part: string, inside: string | null) =>
  inside ? `${inside}/${part}` : part;

export function changeOf(
  document: Exercise,
  id: string,
  part: string,
  inside: string | null,
): CaseChange | undefined {
  const reference = referenceTo(part, inside);
  return document.cases.find((each) => each.id === id)?.changes.find((c) => c.part === reference);
}

/** A part as it is in a case, its values and model. */
export function inCase(part: Part, change: CaseChange | undefined): Part {
  if (change?.does !== "replace") return part;
  if (change.kind) return { ...part, kind: change.kind, form: change.form, values: change.values };
  return {
    ...part,
    form: change.form || part.form,
    values: { ...part.values, ...change.values },
  };
}
