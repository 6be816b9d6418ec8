// What can be put on the sheet: the parts most often wanted, all others by purpose, wires and names.
import { Keyboard, LayoutGrid, Spline, StickyNote, Tag } from "lucide-react";
import { Popover } from "radix-ui";
import { useState } from "react";
import type { Kind } from "../../api/types";
import { CommandButton } from "../../ui/Button";
import { Hint } from "../../ui/Hint";
import { startPlacingKind, startWire } from "../editor/actions";
import { useCatalogue } from "../editor/catalogue";
import { useSheetCommands } from "../editor/commands";
import { useEditorStore } from "../editor/tools";
import { Thumbnail } from "./PlaceBox";

const cell =
  "h-9 min-w-10 items-center justify-center rounded-md px-1 hover:bg-ruling aria-pressed:bg-accent-wash";
// Where there is little room, the parts less often wanted are found among all parts alone.
const USUAL = [
  { key: "voltage_source", from: "" },
  { key: "resistor", from: "" },
  { key: "capacitor", from: "" },
  { key: "inductor", from: "hidden @min-[30rem]:flex" },
  { key: "diode", from: "hidden @min-[36rem]:flex" },
  { key: "npn", from: "hidden @min-[36rem]:flex" },
  { key: "opamp", from: "hidden @min-[36rem]:flex" },
  { key: "ground", from: "" },
];

export function Tray() {
  const catalogue = useCatalogue();
  const commands = useSheetCommands();
  const tool = useEditorStore((state) => state.tool);
  const placing = tool.kind === "placing" ? tool.placement.kind : null;
  const pressed = (kind: typeof tool.kind) => ({
    "aria-pressed": tool.kind === kind,
    className: "min-w-10",
  });
  return (
    <div
      role="toolbar"
      aria-label="Parts and wires"
      className="flex max-w-full flex-wrap items-center justify-center gap-0.5 rounded-xl border border-hairline bg-raised/95 p-1 shadow-card"
    >
      {USUAL.map(({ key, from }) => {
        const kind = catalogue.get(key);
        return kind && <PartButton key={key} kind={kind} from={from} pressed={placing === key} />;
      })}
      <AllParts />
      <span className="mx-1 h-6 w-px bg-hairline" />
      <CommandButton of={{ ...commands.wire, run: () => startWire(null) }} {...pressed("wiring")}>
        <Spline size={18} />
      </CommandButton>
      <CommandButton of={commands.name} {...pressed("naming")}>
        <Tag size={18} />
      </CommandButton>
      <CommandButton of={commands.note} {...pressed("noting")}>
        <StickyNote size={18} />
      </CommandButton>
      <span className="mx-1 h-6 w-px bg-hairline" />
      <Hint text="Or just type on the sheet: 4k7, 5V, 100n, npn, a name">
        <button
          type="button"
          aria-label="Type to place, as in 4k7"
          className={`${cell} flex gap-1.5 text-sm text-soft`}
          onClick={commands.type.run}
        >
          <Keyboard size={18} />
          <span className="figure hidden text-ink @min-[36rem]:inline">4k7</span>
        </button>
      </Hint>
    </div>
  );
}

function PartButton({ kind, from, pressed }: { kind: Kind; from: string; pressed: boolean }) {
  return (
    <Hint text={kind.label}>
      <button
        type="button"
        aria-label={`Place ${kind.label.toLowerCase()}`}
        aria-pressed={pressed}
        className={`${cell} ${from || "flex"}`}
        onClick={() => startPlacingKind(kind)}
      >
        <Thumbnail kind={kind.key} />
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
  const recent = useEditorStore((state) => state.recent);
  const lately = wanted ? [] : recent.flatMap((key) => catalogue.get(key) ?? []);
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
          <button type="button" aria-label="All parts" className={`${cell} flex`}>
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
          className="z-30 flex max-h-[min(32rem,var(--radix-popover-content-available-height))] w-[27rem] flex-col rounded-xl border border-hairline bg-raised shadow-card outline-none"
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
            {lately.length > 0 && <Kinds title="Placed lately" kinds={lately} onChoose={choose} />}
            {purposes.map((purpose) => (
              <Kinds
                key={purpose}
                title={purpose}
                kinds={found.filter((kind) => kind.purpose === purpose)}
                onChoose={choose}
              />
            ))}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

interface KindsProps {
  title: string;
  kinds: Kind[];
  onChoose(kind: Kind): void;
}

function Kinds({ title, kinds, onChoose }: KindsProps) {
  return (
    <section aria-label={title}>
      <h3 className="mt-2.5 mb-0.5 px-1 text-xs font-medium text-soft">{title}</h3>
      <div className="grid grid-cols-2 gap-x-1">
        {kinds.map((kind) => (
          <button
            key={kind.key}
            type="button"
            onClick={() => onChoose(kind)}
            className="flex items-center gap-2 rounded-md px-1 py-0.5 text-left text-[13px] leading-tight hover:bg-accent-wash focus-visible:bg-accent-wash"
          >
            <Thumbnail kind={kind.key} />
            {kind.label}
          </button>
        ))}
      </div>
    </section>
  );
}
