// The command palette: everything that can be done here, found by name or another word, with its key.
import { Command } from "cmdk";
import { useEffect } from "react";
import { focusSheet } from "../schematic/hand/focus";
import { Keys } from "../ui/Hint";
import { useCommands } from "./commands";
import { openPanel, usePanels } from "./panels";

export function Palette() {
  const isOpen = usePanels((state) => state.open === "commands");
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "k") return;
      event.preventDefault();
      openPanel(usePanels.getState().open === "commands" ? null : "commands");
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return isOpen && <Opened />;
}

function Opened() {
  const commands = useCommands();
  const groups = [...new Set(commands.map((command) => command.group))];
  const close = () => {
    openPanel(null);
    focusSheet();
  };
  return (
    <Command
      label="Commands"
      onKeyDown={(event) => event.key === "Escape" && close()}
      onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && openPanel(null)}
      className="fixed top-24 left-1/2 z-40 w-[26rem] max-w-[calc(100%-2rem)] -translate-x-1/2 overflow-hidden rounded-xl border border-hairline bg-raised shadow-card"
    >
      <Command.Input
        autoFocus
        placeholder="What do you want to do?"
        className="block w-full border-b border-hairline bg-transparent px-4 py-3 text-base placeholder:text-soft focus:outline-none"
      />
      <Command.List className="max-h-[min(24rem,60vh)] overflow-y-auto p-1">
        <Command.Empty className="px-3 py-2 text-sm text-soft">
          No command is called that. Try another word.
        </Command.Empty>
        {groups.map((group) => (
          <Command.Group
            key={group}
            heading={group}
            className="[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-0.5 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:font-medium [&_[cmdk-group-heading]]:text-soft"
          >
            {commands
              .filter((command) => command.group === group)
              .map((command) => (
                <Command.Item
                  key={command.name}
                  value={`${group} ${command.name}`}
                  keywords={command.words ?? []}
                  onSelect={() => {
                    close();
                    command.run();
                  }}
                  className="flex cursor-pointer items-center rounded-md px-3 py-1.5 text-sm data-[selected=true]:bg-accent-wash"
                >
                  <span className="grow">{command.name}</span>
                  {command.keys && <Keys>{command.keys}</Keys>}
                </Command.Item>
              ))}
          </Command.Group>
        ))}
      </Command.List>
    </Command>
  );
}
