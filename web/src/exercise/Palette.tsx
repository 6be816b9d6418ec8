// The command palette: everything that can be done here, found by name or another word, with its key.
import { Command } from "cmdk";
import { useEffect } from "react";
import { focusSheet } from "../schematic/editor/focus";
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

const ARTICLES = new Set(["a", "an", "the"]);

/** How well a command is what was typed: every word begins one of its name, or else one of the others. */
function likeness(name: string, typed: string, others: string[] = []): number {
  const wanted = typed
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word && !ARTICLES.has(word));
  const among = (texts: string[]) => {
    const words = texts.flatMap((text) => text.toLowerCase().split(/[^\p{L}\p{N}]+/u));
    return wanted.every((word) => words.some((each) => each.startsWith(word)));
  };
  if (name.toLowerCase().startsWith(wanted.join(" "))) return 1;
  return among([name]) ? 0.9 : among([name, ...others]) ? 0.5 : 0;
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
      filter={likeness}
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
                  value={command.name}
                  keywords={[group, ...(command.words ?? [])]}
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
