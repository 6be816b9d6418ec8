// What can be put on the sheet: the parts most often wanted, all others by purpose, wires and names.
import { Keyboard, LayoutGrid, Spline, StickyNote, Tag } from "lucide-react";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import type { Kind } from "../../api/types";
import { Hint } from "../../ui/Hint";
import { startPlacingKind, startWire, take } from "../hand/actions";
import { useCatalogue } from "../hand/catalogue";
import { useHand } from "../hand/tools";
import { Thumbnail } from "./PlaceBox";

const cell =
  "flex h-9 min-w-10 items-center justify-center rounded-md px-1 hover:bg-ruling aria-pressed:bg-accent-wash";
const USUAL = [
  "voltage_source",
  "resistor",
  "capacitor",
  "inductor",
  "diode",
  "npn",
  "opamp",
  "ground",
];
const MOST_RECENT = 2;

export function Tray() {
  const catalogue = useCatalogue();
  const tool = useHand((state) => state.tool);
  const recent = useHand((state) => state.recent);
  const set = useHand((state) => state.set);
  const placing = tool.kind === "placing" ? tool.placement.kind : null;
  const near = [...USUAL, ...recent.filter((kind) => !USUAL.includes(kind)).slice(0, MOST_RECENT)];
  return (
    <div
      role="toolbar"
      aria-label="Parts and wires"
      className="absolute top-3 left-1/2 z-10 flex -translate-x-1/2 items-center gap-0.5 rounded-xl border border-hairline bg-raised/95 p-1 shadow-card"
    >
      {near.map((key) => {
        const kind = catalogue.get(key);
        return kind && <PartButton key={key} kind={kind} pressed={placing === key} />;
      })}
      <AllParts />
      <span className="mx-1 h-6 w-px bg-hairline" />
      <ToolButton
        hint="Wire"
        shortcut="W"
        label="Draw a wire"
        pressed={tool.kind === "wiring"}
        onClick={() => startWire(null)}
      >
        <Spline size={18} />
      </ToolButton>
      <ToolButton
        hint="Name the node under the cursor"
        label="Name a node"
        pressed={tool.kind === "naming"}
        onClick={() => take({ kind: "naming" })}
      >
        <Tag size={18} />
      </ToolButton>
      <ToolButton
        hint="Write a note on the drawing"
        label="Write a note"
        pressed={tool.kind === "noting"}
        onClick={() => take({ kind: "noting" })}
      >
        <StickyNote size={18} />
      </ToolButton>
      <span className="mx-1 h-6 w-px bg-hairline" />
      <Hint text="Or just type on the sheet: 4k7, 5V, 100n, npn, a name">
        <button
          type="button"
          aria-label="Type to place, as in 4k7"
          className={`${cell} gap-1.5 text-sm text-soft`}
          onClick={() => set({ typed: "", card: null })}
        >
          <Keyboard size={18} />
          <span className="figure text-ink">4k7</span>
        </button>
      </Hint>
    </div>
  );
}

function PartButton({ kind, pressed }: { kind: Kind; pressed: boolean }) {
  return (
    <Hint text={kind.label}>
      <button
        type="button"
        aria-label={`Place ${kind.label.toLowerCase()}`}
        aria-pressed={pressed}
        className={cell}
        onClick={() => startPlacingKind(kind)}
      >
        <Thumbnail kind={kind.key} />
      </button>
    </Hint>
  );
}

interface ToolButtonProps {
  hint: string;
  label: string;
  shortcut?: string;
  pressed: boolean;
  onClick(): void;
  children: ReactNode;
}

function ToolButton({ hint, label, shortcut, pressed, onClick, children }: ToolButtonProps) {
  return (
    <Hint text={hint} shortcut={shortcut}>
      <button
        type="button"
        aria-label={label}
        aria-pressed={pressed}
        className={cell}
        onClick={onClick}
      >
        {children}
      </button>
    </Hint>
  );
}

/** Every part, by purpose, found by name, purpose or word. */
function AllParts() {
  const catalogue = useCatalogue();
  const [open, setOpen] = useState(false);
  const [wanted, setWanted] = useState("");
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
  const found = [...catalogue.values()].filter((kind) =>
    words.every((word) =>
      [kind.label, kind.purpose, ...kind.words].some((text) => text.toLowerCase().includes(word)),
    ),
  );
  const purposes = [...new Set(found.map((kind) => kind.purpose))];
  const choose = (kind: Kind) => {
    setOpen(false);
    setWanted("");
    startPlacingKind(kind);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Hint text="All parts">
        <Popover.Trigger asChild>
          <button type="button" aria-label="All parts" className={cell}>
            <LayoutGrid size={18} />
          </button>
        </Popover.Trigger>
      </Hint>
      <Popover.Portal>
        <Popover.Content
          aria-label="All parts"
          sideOffset={8}
          collisionPadding={12}
          onCloseAutoFocus={(event) => event.preventDefault()}
          className="z-30 flex max-h-[32rem] w-[27rem] flex-col rounded-xl border border-hairline bg-raised shadow-card outline-none"
        >
          <input
            type="search"
            aria-label="Find a part"
            value={wanted}
            placeholder="Find: diode, amplifier, switch …"
            onChange={(event) => setWanted(event.target.value)}
            onKeyDown={(event) => {
              const [first] = found;
              if (event.key === "Enter" && first) choose(first);
            }}
            className="block w-full border-b border-hairline bg-transparent px-4 py-2.5 placeholder:text-soft focus:outline-none"
          />
          <div className="overflow-y-auto px-3 pt-1 pb-3">
            {found.length === 0 && (
              <p className="px-1 py-3 text-sm text-soft">No part is called that.</p>
            )}
            {purposes.map((purpose) => (
              <section key={purpose} aria-label={purpose}>
                <h3 className="mt-2.5 mb-0.5 px-1 text-xs font-medium text-soft">{purpose}</h3>
                <div className="grid grid-cols-2 gap-x-1">
                  {found
                    .filter((kind) => kind.purpose === purpose)
                    .map((kind) => (
                      <button
                        key={kind.key}
                        type="button"
                        onClick={() => choose(kind)}
                        className="flex items-center gap-2 rounded-md px-1 py-0.5 text-left text-[13px] leading-tight hover:bg-accent-wash focus-visible:bg-accent-wash"
                      >
                        <Thumbnail kind={kind.key} />
                        {kind.label}
                      </button>
                    ))}
                </div>
              </section>
            ))}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
