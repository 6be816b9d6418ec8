// Blocks: part of a drawing made a part of its own, opened, and left again.
import { api, ask } from "../../api/client";
import type { NewBlock, Point, PortsLaid, Schematic, Wire } from "../../api/types";
import { sheetOf, useExercise } from "../../document/store";
import { say } from "../../ui/Toasts";
import { joinsAt } from "../model/edits";
import { type Catalogue, pinsOf, same } from "../model/geometry";
import { route, surroundings } from "../model/route";
import { freshId, tidied, withKinds } from "../model/wires";
import { withBlocks } from "./catalogue";
import { useEditorStore } from "./tools";

/** Turn what is chosen into a block; the wires that led to it are laid to its ports. */
export async function makeBlock(catalogue: Catalogue): Promise<void> {
  const { document, inside } = useExercise.getState();
  const schematic = sheetOf(document, inside);
  const chosen = [...useEditorStore.getState().chosen];
  const identity = freshId("b", document.blocks);
  const name = `Block ${identity.slice(1)}`;
  let made: NewBlock;
  try {
    made = await ask<NewBlock>(
      api.POST("/api/block", {
        body: { schematic, blocks: document.blocks, chosen, name, identity },
      }),
    );
  } catch (error) {
    say((error as Error).message);
    return;
  }
  const store = useExercise.getState();
  if (sheetOf(store.document, store.inside) !== schematic) {
    say("The drawing was changed meanwhile; choose the parts again.");
    return;
  }
  const known = withBlocks(catalogue, [made.kind]);
  const group = `block ${identity}`;
  store.edit((draft) => {
    draft.blocks.push(made.block);
  }, group);
  store.draw(() => joinedAgain(made, known), group);
  store.endGroup();
  useEditorStore.getState().choose([made.part]);
  useEditorStore.getState().set({ card: made.part });
}

function joinedAgain({ schematic, part, rejoin, loose }: NewBlock, catalogue: Catalogue) {
  const instance = schematic.parts.find((item) => item.id === part);
  const pins = instance ? pinsOf(instance, catalogue) : [];
  let drawn = schematic;
  for (const { start, pin } of rejoin) {
    const end = pins[pin]?.at;
    if (!end) continue;
    const points = route(start as Point, end, surroundings(drawn, catalogue));
    drawn = { ...drawn, wires: [...drawn.wires, { id: freshId("w", drawn.wires), points }] };
  }
  return trimmed(tidied(drawn, catalogue), loose as Point[], catalogue);
}

/** Wires gone that led to a loose end only. */
function trimmed(schematic: Schematic, loose: Point[], catalogue: Catalogue): Schematic {
  const leadsNowhere = (end: Point, wire: Wire) =>
    loose.some((point) => same(point, end)) &&
    !joinsAt({ ...schematic, wires: schematic.wires.filter((w) => w !== wire) }, end, catalogue);
  const wires = schematic.wires.filter(
    (wire) =>
      ![wire.points[0] as Point, wire.points.at(-1) as Point].some((end) =>
        leadsNowhere(end, wire),
      ),
  );
  return tidied({ ...schematic, wires }, catalogue);
}

/** Go into a block's drawing, or back out to the exercise's. */
export function enterBlock(id: string | null): void {
  useEditorStore.getState().reset();
  useExercise.getState().enter(id);
}

/** Give a block's ports other places; the wires of its uses follow their pins. */
export function movePorts(id: string, { ports, kind }: PortsLaid, catalogue: Catalogue): void {
  const { document, edit } = useExercise.getState();
  // Where its pins are now is the document's to say: the catalogue follows a moment later.
  const own = document.blocks.find((block) => block.id === id);
  const pins = (own?.ports ?? []).map(({ name, at: [x, y] }) => ({ name, x, y }));
  const before: Catalogue = new Map([...catalogue, [kind.key, { ...kind, pins }]]);
  const after: Catalogue = new Map([...catalogue, [kind.key, kind]]);
  const followed = (schematic: Schematic) =>
    schematic.parts.some((part) => part.block === id)
      ? withKinds(schematic, id, before, after)
      : schematic;
  const changed = {
    schematic: followed(document.schematic),
    blocks: document.blocks.map((block) => ({
      ...block,
      ports: block.id === id ? ports : block.ports,
      schematic: followed(block.schematic),
    })),
  };
  edit((draft) => {
    Object.assign(draft, changed);
  });
}
