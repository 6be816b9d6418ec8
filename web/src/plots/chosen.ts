// What can be shown of the things chosen on the sheet, by the names they have in formulas.
import type { Evaluation } from "../api/types";
import { useExercise } from "../document/store";
import { useEditorStore } from "../schematic/editor/tools";

const MOST = 6;

/** V of a chosen wire's or name's node; I, P and the voltage across of a chosen part. */
export function namesOfChosen(look: Evaluation | null, chosen: ReadonlySet<string>): string[] {
  if (!look) return [];
  const names: string[] = [];
  const voltage = (net: Evaluation["nets"][number]) => (net.ground ? "0" : `V_${net.name}`);
  for (const net of look.nets)
    if (!net.ground && net.wires.some((wire) => chosen.has(wire))) names.push(voltage(net));
  const [first, second, ...more] = names;
  if (first && second && !more.length) names.push(`${first} - ${second}`);
  for (const part of look.parts.filter((each) => chosen.has(each.id))) {
    const { name } = part;
    for (const quantity of look.quantities)
      if (
        quantity.kind !== "voltage" &&
        (quantity.subject === name || quantity.subject.startsWith(`${name}.`))
      )
        names.push(quantity.name);
    const ends = [0, 1].map((pin) =>
      look.nets.find((net) => net.pins.some(([id, index]) => id === part.id && index === pin)),
    );
    const [a, b] = ends;
    if (a && b && a !== b && !a.ground)
      names.push(b.ground ? voltage(a) : `${voltage(a)} - ${voltage(b)}`);
  }
  return [...new Set(names)].slice(0, MOST);
}

export function useNamesOfChosen(): string[] {
  const look = useExercise((state) => state.look);
  const chosen = useEditorStore((state) => state.chosen);
  const labels = useExercise((state) => state.document.schematic.labels);
  const named = labels.filter((label) => chosen.has(label.id)).map((label) => `V_${label.name}`);
  return [...new Set([...named, ...namesOfChosen(look, chosen)])];
}
