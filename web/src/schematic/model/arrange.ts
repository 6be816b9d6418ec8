// Edits of several things at once: align, space, renumber, replace, splice and heal.
import type { Kind, Part, Point, Schematic } from "../../api/types";
import { freeName } from "./edits";
import { type Catalogue, kindOf, pinsOf } from "./geometry";
import { freshId, tidied, withParts } from "./wires";

type Ids = ReadonlySet<string>;
const X = 0;
const Y = 1;
const AXIS = { row: Y, column: X } as const;

/** Put the chosen parts in a row or a column: on the place most of them share, or the first's. */
export function aligned(
  schematic: Schematic,
  ids: Ids,
  into: keyof typeof AXIS,
  catalogue: Catalogue,
): Schematic {
  const axis = AXIS[into];
  const chosen = schematic.parts.filter((part) => ids.has(part.id));
  const counts = new Map<number, number>();
  for (const part of chosen) counts.set(part.at[axis], (counts.get(part.at[axis]) ?? 0) + 1);
  const [line] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? [];
  if (line === undefined) return schematic;
  const moved = chosen.map((part) => ({
    ...part,
    at: (axis === X ? [line, part.at[Y]] : [part.at[X], line]) as Point,
  }));
  return tidied(withParts(schematic, catalogue, moved), catalogue);
}

/** Space three or more chosen parts evenly between the outermost two. */
export function spaced(schematic: Schematic, ids: Ids, catalogue: Catalogue): Schematic {
  const chosen = schematic.parts.filter((part) => ids.has(part.id));
  if (chosen.length < 3) return schematic;
  const spread = (axis: 0 | 1) =>
    Math.max(...chosen.map((p) => p.at[axis])) - Math.min(...chosen.map((p) => p.at[axis]));
  const axis = spread(X) >= spread(Y) ? X : Y;
  const ordered = [...chosen].sort((a, b) => a.at[axis] - b.at[axis]);
  const first = (ordered[0] as Part).at[axis];
  const step = spread(axis) / (ordered.length - 1);
  const moved = ordered.map((part, i) => {
    const place = Math.round(first + step * i);
    return { ...part, at: (axis === X ? [place, part.at[Y]] : [part.at[X], place]) as Point };
  });
  return tidied(withParts(schematic, catalogue, moved), catalogue);
}

/** Another kind in the same place, keeping name and wires pin by pin. */
export function replaced(
  schematic: Schematic,
  id: string,
  kind: Kind,
  catalogue: Catalogue,
): Schematic {
  const part = schematic.parts.find((item) => item.id === id);
  if (!part) return schematic;
  const kept = Object.fromEntries(
    Object.entries(part.values).filter(([name]) => name in kind.values),
  );
  const [name = "", block = ""] = kind.key.split(" ");
  const other = { ...part, kind: name, block, form: "", values: { ...kind.values, ...kept } };
  return tidied(withParts(schematic, catalogue, [other]), catalogue);
}

/** The chosen two-pin parts gone, and a wire in the place of each. */
export function healed(schematic: Schematic, ids: Ids, catalogue: Catalogue): Schematic {
  const gone = schematic.parts.filter((part) => ids.has(part.id));
  const wires = [...schematic.wires];
  for (const part of gone) {
    const ends = pinsOf(part, catalogue).map((pin) => pin.at);
    if (ends.length === 2) wires.push({ id: freshId("w", wires), points: ends });
  }
  const parts = schematic.parts.filter((part) => !ids.has(part.id));
  return tidied({ ...schematic, parts, wires }, catalogue);
}

/** The names that parts would have counted from left to right, of those that are called otherwise. */
export function renumbered(schematic: Schematic, catalogue: Catalogue): Map<string, string> {
  const inOrder = [...schematic.parts].sort((a, b) => a.at[X] - b.at[X] || a.at[Y] - b.at[Y]);
  const names = new Map<string, string>();
  const named: Part[] = [];
  for (const part of inOrder) {
    if (!kindOf(part, catalogue) || part.kind === "ground") continue;
    const own = /^([A-Za-z_]+)\d+$/.exec(part.name);
    const name = own ? freeName(own[1] as string, named) : part.name;
    if (name !== part.name) names.set(part.id, name);
    named.push({ ...part, name });
  }
  return names;
}
