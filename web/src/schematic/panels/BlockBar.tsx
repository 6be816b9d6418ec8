// Where one is inside a block: its name, the way back, and on which side each port stands.
import { ArrowLeft, ArrowUpLeft } from "lucide-react";
import { api, ask } from "../../api/client";
import type { Block, PortsLaid } from "../../api/types";
import { useExercise } from "../../document/store";
import { Button, IconButton } from "../../ui/Button";
import { say } from "../../ui/Toasts";
import { enterBlock, movePorts } from "../editor/blocks";
import { useCatalogue } from "../editor/catalogue";
import type { Catalogue } from "../model/geometry";

const SIDES = ["left", "right", "top", "bottom"] as const;
type Side = (typeof SIDES)[number];
type Port = Block["ports"][number];

export function BlockBar() {
  const inside = useExercise((state) => state.inside);
  const block = useExercise((state) => state.document.blocks.find((b) => b.id === inside));
  const uses = useExercise(
    (state) => state.document.schematic.parts.filter((part) => part.block === inside).length,
  );
  const catalogue = useCatalogue();
  if (!block) return null;
  const edit = (change: (block: Block) => void, group: string) =>
    useExercise.getState().edit((document) => {
      const own = document.blocks.find((candidate) => candidate.id === block.id);
      if (own) change(own);
    }, `${group} ${block.id}`);
  return (
    <div
      role="region"
      aria-label="Inside a block"
      className="flex w-full flex-wrap items-center gap-x-3 gap-y-1 rounded-xl border border-accent bg-raised px-3 py-1.5 text-sm shadow-card"
    >
      <Button look="quiet" className="-ml-2 h-8 px-2" onClick={() => enterBlock(null)}>
        <ArrowLeft size={16} /> Back
      </Button>
      <input
        aria-label="Name of the block"
        value={block.name}
        maxLength={40}
        spellCheck={false}
        onChange={(event) =>
          edit((own) => {
            own.name = event.target.value;
          }, "block name")
        }
        className="w-32 rounded-md border border-edge bg-paper px-2 py-0.5 font-serif text-base focus:border-accent focus:outline-none"
      />
      <span className="text-[13px] text-soft">
        {uses === 1 ? "used once" : `used ${uses} times; a change here changes all`}
      </span>
      <ul aria-label="Ports" className="ml-auto flex flex-wrap items-center gap-x-3 gap-y-1">
        {block.ports.map((port) => (
          <li key={port.name} className="flex items-center gap-1.5">
            <span className="font-serif italic">{port.name}</span>
            <select
              aria-label={`Side of ${port.name}`}
              value={sideOf(port)}
              onChange={(event) =>
                relay(block.id, putOn(event.target.value as Side, port.name), catalogue)
              }
              className="rounded-md border border-edge bg-paper px-1 py-0.5 text-[13px]"
            >
              {SIDES.map((side) => (
                <option key={side}>{side}</option>
              ))}
            </select>
            {before(block, port) && (
              <IconButton
                label={`Put ${port.name} before ${before(block, port)}`}
                className="size-6!"
                onClick={() => relay(block.id, putBefore(port.name), catalogue)}
              >
                <ArrowUpLeft size={14} />
              </IconButton>
            )}
          </li>
        ))}
      </ul>
      <AddPort block={block} />
    </div>
  );
}

/** Names inside that are no ports yet. */
function AddPort({ block }: { block: Block }) {
  const catalogue = useCatalogue();
  const free = [...new Set(block.schematic.labels.map((label) => label.name))].filter(
    (name) => !block.ports.some((port) => port.name === name),
  );
  if (!free.length) return null;
  return (
    <div className="flex flex-wrap gap-1">
      {free.map((name) => (
        <Button
          key={name}
          className="h-7 px-2"
          onClick={() => relay(block.id, putOn("right", name), catalogue)}
        >
          Make {name} a port
        </Button>
      ))}
    </div>
  );
}

function sideOf({ at: [x, y] }: Port): Side {
  if (Math.abs(x) > Math.abs(y)) return x < 0 ? "left" : "right";
  return y < 0 ? "top" : "bottom";
}

/** The names of the ports on each side, in the order they stand there. */
function bySide(ports: Port[]): Sides {
  const sides: Sides = { left: [], right: [], top: [], bottom: [] };
  const along = ({ at: [x, y] }: Port) => (Math.abs(x) > Math.abs(y) ? y : x);
  for (const port of [...ports].sort((a, b) => along(a) - along(b)))
    sides[sideOf(port)].push(port.name);
  return sides;
}

/** The port that stands before this one on the same side; undefined for the first. */
function before(block: Block, port: Port): string | undefined {
  const beside = bySide(block.ports)[sideOf(port)];
  return beside[beside.indexOf(port.name) - 1];
}

type Sides = Record<Side, string[]>;

const putBefore =
  (name: string) =>
  (ports: Port[]): Sides => {
    const sides = bySide(ports);
    for (const beside of Object.values(sides)) {
      const place = beside.indexOf(name);
      if (place > 0) beside.splice(place - 1, 2, name, beside[place - 1] as string);
    }
    return sides;
  };

const putOn =
  (side: Side, name: string) =>
  (ports: Port[]): Sides => {
    const sides = bySide(ports.filter((port) => port.name !== name));
    sides[side].push(name);
    return sides;
  };

// One after another: each begins from what the one before has laid.
let laying = Promise.resolve();

function relay(id: string, change: (ports: Port[]) => Sides, catalogue: Catalogue) {
  laying = laying
    .then(async () => {
      const block = useExercise.getState().document.blocks.find((own) => own.id === id);
      if (!block) return;
      const body = { block, ...change(block.ports) };
      movePorts(id, await ask<PortsLaid>(api.POST("/api/block/ports", { body })), catalogue);
    })
    .catch((error: Error) => say(error.message));
}
