// Arrows of the currents that flow, on the leads they flow through.
import type { Kind, Part, QuantityLook, Schematic } from "../../api/types";
import {
  type Box,
  bodyOf,
  type Catalogue,
  grown,
  kindOf,
  pinsOf,
  spanned,
} from "../model/geometry";
import { nearestIn } from "./leaders";
import type { Arrow } from "./notes";

/** Where a current is told: on the lead of the pin it enters, or of the far pin of a two-pin part. */
function arrowOf(
  part: Part,
  catalogue: Catalogue,
  current: Kind["currents"][number],
  figure: QuantityLook,
): Arrow | null {
  const pins = pinsOf(part, catalogue);
  const through = !current.name && pins.length === 2;
  const pin = through ? pins.at(-1) : pins[current.pin];
  if (!pin) return null;
  const near = nearestIn(bodyOf(part, catalogue), pin.at);
  const out = figure.flow > 0 === through;
  return {
    quantity: figure.name,
    part,
    flow: figure.flow,
    at: [(near[0] + pin.at[0]) / 2, (near[1] + pin.at[1]) / 2],
    towards: out ? pin.outward : [-pin.outward[0], -pin.outward[1]],
  };
}

/** Whether it is worth telling that no current flows: it might, at rest. */
const mightConduct = (part: Part, current: Kind["currents"][number]) =>
  !current.name && part.kind !== "capacitor" && !part.kind.endsWith("_source");

/** One for each current that flows; and, without a direction, where none does though it might. */
export function arrows(
  schematic: Schematic,
  catalogue: Catalogue,
  figures: ReadonlyMap<string, QuantityLook>,
): Arrow[] {
  return schematic.parts.flatMap((part) =>
    (kindOf(part, catalogue)?.currents ?? []).flatMap((current) => {
      const name = `I_${part.name}${current.name ? `.${current.name}` : ""}`;
      const figure = figures.get(name);
      if (!figure || !(figure.flow || mightConduct(part, current))) return [];
      return arrowOf(part, catalogue, current, figure) ?? [];
    }),
  );
}

export const arrowBox = ({ at }: Arrow): Box => grown(spanned(at, at), 0.55);
