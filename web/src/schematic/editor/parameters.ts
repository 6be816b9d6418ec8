// What was worked out, made a parameter that the values of parts can be given by.
import { useExercise } from "../../document/store";
import { freshId } from "../model/wires";

/** The result of the line that gives `name`, as one would type it; null where there is none. */
export function workedOut(name: string): string | null {
  const { look } = useExercise.getState();
  return look?.lines.find((line) => line.target === name && !line.problem)?.typed ?? null;
}

export function makeParameter(name: string): void {
  const text = workedOut(name);
  if (text === null) return;
  useExercise.getState().edit((document) => {
    const known = document.parameters.find((named) => named.name === name);
    if (known) known.text = text;
    else document.parameters.push({ id: freshId("n", document.parameters), name, text });
  });
}
