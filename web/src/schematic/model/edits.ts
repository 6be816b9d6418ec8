// Edits of the drawing as plain functions: a schematic in, a schematic out, wires kept tidy.
import type { Kind, Label, Mend, Part, Placement, Point, Schematic, Wire } from "../../api/types";
import { type Catalogue, onWire, pinsOf, same } from "./geometry";
import { freshId, shiftedBy, spliced, tidied, withParts } from "./wires";

const everything = (s: Schematic) => [
  ...s.parts,
  ...s.wires,
  ...s.junctions,
  ...s.labels,
  ...s.notes,
];

export function freeName(prefix: string, parts: Part[]): string {
  const taken = new Set(parts.map((part) => part.name.toLowerCase()));
  for (let i = 1; ; i++) if (!taken.has(`${prefix}${i}`.toLowerCase())) return `${prefix}${i}`;
}

export function newPart(
  schematic: Schematic,
  kind: Kind,
  placement: Pick<Placement, "values" | "rotation" | "form">,
  at: Point,
): Part {
  return {
    id: freshId("p", everything(schematic)),
    kind: kind.kind,
    block: kind.key.startsWith("block ") ? kind.key.slice("block ".length) : "",
    name: kind.kind === "ground" ? kind.prefix : freeName(kind.prefix, schematic.parts),
    values: placement.values ?? {},
    form: placement.form ?? "",
    textbook: false,
    at,
    rotation: (placement.rotation ?? 0) as Part["rotation"],
    mirror: false,
  };
}

/** Put a part down. Where both its ends land on one wire, the part takes that piece's place. */
export function put(schematic: Schematic, part: Part, catalogue: Catalogue): Schematic {
  const placedDown = tidied({ ...schematic, parts: [...schematic.parts, part] }, catalogue);
  return spliced(placedDown, part.id, catalogue);
}

export function wire(schematic: Schematic, points: Point[], catalogue: Catalogue): Schematic {
  const added: Wire = { id: freshId("w", everything(schematic)), points };
  return tidied({ ...schematic, wires: [...schematic.wires, added] }, catalogue);
}

/** Name the node at a point; a name already at that very place is replaced. */
export function named(
  schematic: Schematic,
  name: string,
  at: Point,
  style: Label["style"] = "name",
): Schematic {
  const label: Label = { id: freshId("l", everything(schematic)), name, at, style };
  const others = schematic.labels.filter((other) => !same(other.at, at));
  return { ...schematic, labels: [...others, label] };
}

export function without(
  schematic: Schematic,
  ids: ReadonlySet<string>,
  catalogue: Catalogue,
): Schematic {
  const rest = {
    ...schematic,
    parts: schematic.parts.filter((item) => !ids.has(item.id)),
    wires: schematic.wires.filter((item) => !ids.has(item.id)),
    junctions: schematic.junctions.filter((item) => !ids.has(item.id)),
    labels: schematic.labels.filter((item) => !ids.has(item.id)),
    notes: schematic.notes.filter((item) => !ids.has(item.id)),
  };
  return tidied(rest, catalogue);
}

export function moved(
  schematic: Schematic,
  ids: ReadonlySet<string>,
  step: Point,
  catalogue: Catalogue,
): Schematic {
  const there = tidied(shiftedBy(schematic, catalogue, ids, step), catalogue);
  const alone = schematic.parts.filter((part) => ids.has(part.id));
  const [part] = alone;
  // A loose part let go along a wire goes into it.
  if (!part || ids.size > 1 || !isLoose(schematic, part, catalogue)) return there;
  return spliced(there, part.id, catalogue);
}

function isLoose(schematic: Schematic, part: Part, catalogue: Catalogue): boolean {
  return pinsOf(part, catalogue).every((pin) => {
    const others = schematic.parts.filter((other) => other.id !== part.id);
    return !joinsAt({ ...schematic, parts: others }, pin.at, catalogue);
  });
}

const turnedOnce = (part: Part): Part => ({
  ...part,
  rotation: ((part.rotation + 90) % 360) as Part["rotation"],
});

const mirroredOnce = (part: Part): Part => ({
  ...part,
  mirror: !part.mirror,
  // Left and right are exchanged as seen on the sheet, whichever way the part is turned.
  rotation: ((360 - part.rotation) % 360) as Part["rotation"],
});

function changedParts(
  schematic: Schematic,
  ids: ReadonlySet<string>,
  change: (part: Part) => Part,
  catalogue: Catalogue,
): Schematic {
  const changed = schematic.parts.filter((part) => ids.has(part.id)).map(change);
  return tidied(withParts(schematic, catalogue, changed), catalogue);
}

export const turned = (s: Schematic, ids: ReadonlySet<string>, catalogue: Catalogue) =>
  changedParts(s, ids, turnedOnce, catalogue);

export const mirrored = (s: Schematic, ids: ReadonlySet<string>, catalogue: Catalogue) =>
  changedParts(s, ids, mirroredOnce, catalogue);

export { mirroredOnce, turnedOnce };

export function mended(schematic: Schematic, mend: Mend, catalogue: Catalogue): Schematic {
  const replaced = <T extends { id: string }>(have: T[], given: T[]): T[] => {
    const byId = new Map(given.map((item) => [item.id, item]));
    const known = have.map((item) => byId.get(item.id) ?? item);
    const ids = new Set(have.map((item) => item.id));
    return [...known, ...given.filter((item) => !ids.has(item.id))];
  };
  const rest = without(schematic, new Set(mend.remove), catalogue);
  return tidied(
    {
      ...rest,
      parts: replaced(rest.parts, mend.parts),
      wires: replaced(rest.wires, mend.wires),
      labels: replaced(rest.labels, mend.labels),
    },
    catalogue,
  );
}

/** Whether anything at this point would be joined: a pin, a wire. */
export function joinsAt(schematic: Schematic, point: Point, catalogue: Catalogue): boolean {
  return (
    schematic.parts.some((part) => pinsOf(part, catalogue).some((pin) => same(pin.at, point))) ||
    schematic.wires.some((w) => onWire(point, w.points))
  );
}
