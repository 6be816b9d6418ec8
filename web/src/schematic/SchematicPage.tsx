// The left page: the sheet, what lies on it, and the findings at its foot.
import { useState } from "react";
import { sheetOf, useExercise } from "../document/store";
import { Button } from "../ui/Button";
import { Panel } from "../ui/Panel";
import { SignIn } from "../ui/SignIn";
import { nodeAt } from "./editor/actions";
import { useCatalogue } from "./editor/catalogue";
import { FiguresFollow, useShownLook } from "./editor/figures";
import { useShape } from "./editor/shape";
import { type Tool, useEditorStore } from "./editor/tools";
import { allPins, kindOf, onWire, same, shifted } from "./model/geometry";
import { BlockBar } from "./panels/BlockBar";
import { CaseSwitch } from "./panels/CaseSwitch";
import { ChosenBar } from "./panels/ChosenBar";
import { Findings } from "./panels/Findings";
import { FiguresBar, ZoomButtons } from "./panels/Layers";
import { Parameters } from "./panels/Parameters";
import { PlaceBox } from "./panels/PlaceBox";
import { SheetMenu } from "./panels/SheetMenu";
import { Tray } from "./panels/Tray";
import { Sheet } from "./Sheet";

export function SchematicPage() {
  const empty = useExercise(({ document, inside }) => {
    const { parts, wires, notes } = sheetOf(document, inside);
    return !parts.length && !wires.length && !notes.length;
  });
  const idle = useEditorStore((state) => state.tool.kind === "idle" && state.typed === null);
  const isBehind = useExercise((state) => state.behind !== null);
  return (
    <div className="flex h-full flex-col bg-paper">
      <Behind />
      <div data-behind={isBehind} className="relative min-h-0 grow">
        <Sheet />
        {/* What lies over the sheet stands in two columns, so that nothing covers anything else. */}
        <div
          data-over="top"
          className="@container pointer-events-none absolute inset-x-3 top-3 z-10 flex flex-col items-center gap-2 *:pointer-events-auto"
        >
          <Tray />
          <BlockBar />
          <ChosenBar />
        </div>
        {empty && idle && <EmptySheet />}
        <div className="@container pointer-events-none absolute inset-x-3 bottom-3 z-10 flex flex-col gap-2">
          <Readout />
          <Guide />
          <PlaceBox />
          <div data-over="bottom" className="flex flex-wrap items-end gap-2 *:pointer-events-auto">
            <FiguresBar />
            <CaseSwitch />
            <Parameters />
            <ZoomButtons />
          </div>
        </div>
        <SheetMenu />
      </div>
      <Findings />
      <FiguresFollow />
    </div>
  );
}

/** Why the figures on the drawing are not of now. */
function Behind() {
  const behind = useExercise((state) => state.behind);
  const [signingIn, setSigningIn] = useState(false);
  if (!behind) return null;
  return (
    <div role="alert" className="flex items-center gap-2 bg-doubt-wash px-4 py-2 text-sm">
      <p className="grow">
        These figures are from before your last edit. {behind.message}
        {!behind.again && " Trying again …"}
      </p>
      {behind.again && <Button onClick={behind.again}>Try again</Button>}
      {behind.isNotSignedIn && <Button onClick={() => setSigningIn(true)}>Sign in</Button>}
      <Panel open={signingIn} title="Sign in" onClose={() => setSigningIn(false)}>
        <SignIn onDone={() => setSigningIn(false)} />
      </Panel>
    </div>
  );
}

function EmptySheet() {
  return (
    <div className="pointer-events-none absolute inset-0 flex items-center justify-center">
      <div className="max-w-md rounded-2xl bg-paper/90 p-6 text-center">
        <p className="font-serif text-2xl">An empty sheet</p>
        <p className="mt-2 text-soft">
          Type what you want to place: <b className="figure font-medium text-ink">5V</b> is a
          source, <b className="figure font-medium text-ink">4k7</b> a resistor,{" "}
          <b className="figure font-medium text-ink">npn</b> a transistor,{" "}
          <b className="figure font-medium text-ink">gnd</b> the ground. Or take a part from the row
          above. Then drag from pin to pin to wire them.
        </p>
      </div>
    </div>
  );
}

const HINTS: Record<Exclude<Tool["kind"], "idle" | "dragging">, string> = {
  placing: "Click or Enter places it; with Shift, several. R rotates, M mirrors, Esc cancels.",
  wiring: "Click a pin or wire to connect it, empty paper to turn a corner. Esc cancels.",
  naming: "Click the wire or pin to name.",
  noting: "Click where to write the note.",
  captioning: "The text stays where you leave it.",
  sweeping: "Everything the frame touches is selected.",
};

/** What the hand can do now, and, for the keyboard, what the cursor is on. */
function Guide() {
  const tool = useEditorStore((state) => state.tool);
  const under = useUnderCursor();
  const carried = useCarriedName();
  const picking = useEditorStore((state) => state.picking?.hint);
  const text =
    picking ??
    carried ??
    (tool.kind === "idle" || tool.kind === "dragging" ? "" : HINTS[tool.kind]);
  return (
    <>
      <p
        role="status"
        aria-label="What to do"
        className={`self-center rounded-2xl bg-ink px-3.5 py-1 text-center text-[13px] text-paper ${text ? "" : "hidden"}`}
      >
        {text}
      </p>
      <p id="sheet-help" className="sr-only">
        Arrow keys move the cursor, with Control to the next pin. Type a value to place a part, W to
        begin a wire, Tab to reach the parts, Enter to open one.
      </p>
      <p role="status" aria-label="Under the cursor" className="sr-only">
        {under}
      </p>
    </>
  );
}

/** What becomes of a node's name that is being dragged; null where none is. */
function useCarriedName(): string | null {
  const tool = useEditorStore((state) => state.tool);
  const catalogue = useCatalogue();
  const schematic = useShape();
  if (tool.kind !== "dragging" || tool.ids.size !== 1) return null;
  const label = schematic.labels.find(({ id }) => tool.ids.has(id));
  if (!label || (!tool.step[0] && !tool.step[1])) return null;
  const before = nodeAt(label.at, catalogue);
  const after = nodeAt(shifted(label.at, tool.step), catalogue);
  if (!after) return `${label.name} names no node here.`;
  return before === after ? `Still the same node.` : `${label.name} becomes the name of this node.`;
}

/** What is pointed at, with all its digits, and what meets there. */
function Readout() {
  const lit = useEditorStore((state) => state.hovered);
  const idle = useEditorStore((state) => state.tool.kind === "idle" && state.card === null);
  const shown = useShownLook();
  const look = lit && idle ? shown : null;
  const { parts } = useShape();
  if (!lit || !idle || !look) return null;
  const figure = look.quantities.find((quantity) => quantity.name === lit);
  const net = look.nets.find((candidate) => `V_${candidate.name}` === lit);
  if (!figure && !net) return null;
  const names = new Set(
    net?.pins.map(([id]) => parts.find((part) => part.id === id)?.name).filter(Boolean),
  );
  const title = net ? (net.ground ? "Ground" : `Node ${net.name}`) : figure?.meaning;
  return (
    <p className="max-w-[80%] self-start truncate rounded-md border border-hairline bg-raised/95 px-2.5 py-1 text-[13px]">
      {title}
      {figure && <span className="figure text-simulated"> {figure.exact}</span>}
      {names.size > 0 && <span className="text-soft"> · joins {[...names].join(", ")}</span>}
    </p>
  );
}

function useUnderCursor(): string {
  const catalogue = useCatalogue();
  const cursor = useEditorStore((state) => (state.byKeys ? state.cursor : null));
  const schematic = useShape();
  if (!cursor) return "";
  const pin = allPins(schematic, catalogue).find((candidate) => same(candidate.at, cursor));
  const where = `${cursor[0]}, ${cursor[1]}`;
  if (pin) {
    const name = kindOf(pin.part, catalogue)?.pins[pin.index]?.name;
    return `Pin ${name} of ${pin.part.name}, at ${where}`;
  }
  if (schematic.wires.some((wire) => onWire(cursor, wire.points))) return `Wire, at ${where}`;
  return `Empty, at ${where}`;
}
