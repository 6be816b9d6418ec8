// The numbers of nodes that nobody named: what the drawing keeps of them from edit to edit.
import type { Evaluation, NumberedNode, Schematic } from "../api/types";

/** The drawing with the numbers that its nodes were looked at with: of those that join something, and
 * of those that the document speaks of, though they may be gone. */
export function keepingNumbers(sheet: Schematic, look: Evaluation): Schematic {
  const spoken = new Set(look.spoken);
  const nodes: NumberedNode[] = [];
  for (const { name, ground, named, pins } of look.nets) {
    const isSpoken = spoken.delete(name);
    if (!ground && !named && (isSpoken || pins.length > 1)) nodes.push({ name, pins });
  }
  for (const name of spoken) nodes.push({ name, pins: [] });
  const before = new Map(sheet.nodes?.map((node) => [node.name, node]));
  const kept = nodes.map((node) => {
    const old = before.get(node.name);
    return old && isSame(old, node) ? old : node;
  });
  return kept.every((node, k) => node === sheet.nodes?.[k]) && kept.length === before.size
    ? sheet
    : { ...sheet, nodes: kept };
}

const isSame = (a: NumberedNode, b: NumberedNode) => `${a.pins}` === `${b.pins}`;
