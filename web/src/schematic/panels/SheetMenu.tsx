// The menu of a right press: what can be done with what is there.
import { BASE, useShownCase } from "../../document/cases";
import { sheetOf, useExercise } from "../../document/store";
import { CommandItem, MenuAt, MenuItem, MenuLine } from "../../ui/Menu";
import { askName, noteAt, startWire } from "../editor/actions";
import { enterBlock } from "../editor/blocks";
import { asDrawn, leaveOut, switchOff } from "../editor/cases";
import { useCatalogue } from "../editor/catalogue";
import { useSheetCommands } from "../editor/commands";
import { intoLedger } from "../editor/ledger";
import { type Asked, useEditorStore } from "../editor/tools";
import { joinsAt } from "../model/edits";
import { onWire } from "../model/geometry";

export function SheetMenu() {
  const menu = useEditorStore((state) => state.menu);
  if (!menu) return null;
  return (
    <MenuAt
      key={String(menu.at)}
      label="What can be done here"
      at={menu.at}
      onClose={() => useEditorStore.getState().set({ menu: null })}
    >
      <Items menu={menu} />
    </MenuAt>
  );
}

function Items({ menu }: { menu: Asked }) {
  const catalogue = useCatalogue();
  const commands = useSheetCommands();
  const chosen = useEditorStore((state) => state.chosen);
  const sheet = useExercise(({ document, inside }) => sheetOf(document, inside));
  const { set } = useEditorStore.getState();
  const point: [number, number] = [Math.round(menu.point[0]), Math.round(menu.point[1])];
  const part = sheet.parts.find(({ id }) => id === menu.id);
  const label = sheet.labels.find(({ id }) => id === menu.id);
  const note = sheet.notes.find(({ id }) => id === menu.id);
  const wire = sheet.wires.find(({ id }) => id === menu.id);
  const removing = <CommandItem of={commands.remove} />;
  if (part)
    return (
      <>
        {chosen.size < 2 && (
          <MenuItem shortcut="Enter" onSelect={() => set({ card: part.id })}>
            Edit {part.kind === "ground" ? "" : part.name} …
          </MenuItem>
        )}
        {chosen.size < 2 && part.block && (
          <MenuItem onSelect={() => enterBlock(part.block ?? null)}>Open its drawing</MenuItem>
        )}
        <CommandItem of={commands.rotate} />
        <CommandItem of={commands.mirror} />
        <MenuLine />
        <CommandItem of={commands.copy} />
        <CommandItem of={commands.duplicate} />
        {chosen.size > 1 && <CommandItem of={commands.block} />}
        {chosen.size < 2 && part.kind !== "ground" && <LedgerItems subject={part.name} />}
        <CaseItems of={chosen.has(part.id) ? [...chosen] : [part.id]} />
        <MenuLine />
        {removing}
        <CommandItem of={commands.rejoin} />
      </>
    );
  if (label || note)
    return (
      <>
        <MenuItem onSelect={() => set({ card: menu.id })}>
          {label ? `Rename ${label.name} …` : "Edit the note …"}
        </MenuItem>
        {label && (
          <MenuItem onSelect={() => intoLedger(`V_${label.name}`)}>
            V_{label.name} into the ledger
          </MenuItem>
        )}
        {removing}
      </>
    );
  if (wire) {
    const on = sheet.wires.find(({ points }) => onWire(point, points)) ? point : wire.points[0];
    return (
      <>
        <MenuItem onSelect={() => on && askName(on, catalogue)}>Name this node …</MenuItem>
        <MenuItem shortcut="W" onSelect={() => on && startWire(on)}>
          Draw a wire from here
        </MenuItem>
        <MenuLine />
        {removing}
      </>
    );
  }
  return (
    <>
      <MenuItem onSelect={() => set({ typed: "" })}>Place a part …</MenuItem>
      <CommandItem
        of={commands.wire}
        run={() => startWire(joinsAt(sheet, point, catalogue) ? point : null)}
      />
      <CommandItem of={commands.note} run={() => noteAt(point)} />
      <CommandItem of={commands.paste} />
      <MenuLine />
      <CommandItem of={commands.all} />
      <CommandItem of={commands.fit} />
    </>
  );
}

/** The figures of a part that the look has, to be put into the ledger. */
function LedgerItems({ subject }: { subject: string }) {
  const figures = useExercise((state) => state.look?.quantities);
  const inside = useExercise((state) => state.inside);
  const own = figures?.filter((q) => q.subject === subject && q.kind === "current").slice(0, 1);
  if (!own?.length || inside) return null;
  return own.map(({ name }) => (
    <MenuItem key={name} onSelect={() => intoLedger(name)}>
      {name} into the ledger
    </MenuItem>
  ));
}

/** What a case can do with parts. */
function CaseItems({ of }: { of: string[] }) {
  const sheet = useExercise(({ document, inside }) => sheetOf(document, inside));
  const shown = useShownCase();
  const parts = sheet.parts.filter((p) => of.includes(p.id) && p.kind !== "ground");
  if (!parts.length) return null;
  const [source] = parts.length === 1 && parts[0]?.kind.endsWith("_source") ? parts : [];
  const canShort = parts.every((p) => p.kind !== "block");
  return (
    <>
      <MenuLine />
      {shown !== BASE && (
        <>
          <MenuItem onSelect={() => leaveOut("open", parts, false)}>
            Leave out in this case
          </MenuItem>
          {canShort && (
            <MenuItem onSelect={() => leaveOut("short", parts, false)}>Short in this case</MenuItem>
          )}
          <MenuItem onSelect={() => asDrawn(parts)}>As drawn in this case</MenuItem>
        </>
      )}
      {source && (
        <MenuItem onSelect={() => switchOff(source, shown === BASE)}>
          Switch {source.name} off in {shown === BASE ? "a new" : "this"} case
        </MenuItem>
      )}
      <MenuItem onSelect={() => leaveOut("open", parts, true)}>Leave out in a new case</MenuItem>
      {canShort && (
        <MenuItem onSelect={() => leaveOut("short", parts, true)}>Short in a new case</MenuItem>
      )}
    </>
  );
}
