// The head of an exercise: which one it is, whether it is kept, and what is done to it as a whole.
import {
  BookOpen,
  CloudOff,
  History,
  Moon,
  MoreHorizontal,
  Redo2,
  Search,
  Sun,
  Undo2,
} from "lucide-react";
import { useEffect } from "react";
import { useLocation } from "wouter";
import { type Saving, useExercise } from "../document/store";
import { CommandButton, IconButton } from "../ui/Button";
import { Hint, Keys } from "../ui/Hint";
import { CommandItem, Menu, MenuLine } from "../ui/Menu";
import { usePreferences } from "../ui/theme";
import { Details } from "./Details";
import { redo, revisions, undo, useDocumentCommands, useLooks } from "./documentCommands";
import { openPanel, usePanels } from "./panels";
import { Revisions } from "./Revisions";

export function Header() {
  const [, go] = useLocation();
  const title = useExercise((state) => state.document.title);
  const number = useExercise((state) => state.document.number);
  const canUndo = useExercise((state) => state.past.length > 0 || state.floor > 1);
  const canRedo = useExercise((state) => state.future.length > 0);
  const theme = usePreferences((state) => state.theme);
  const commands = useDocumentCommands();
  const looks = useLooks();
  const panel = usePanels((state) => state.open);
  useEffect(() => {
    document.title = `${title || "Untitled"} · Lucid Bench`;
  }, [title]);

  return (
    <header className="flex h-14 shrink-0 items-center gap-2 bg-desk px-3">
      <IconButton label="Notebook" onClick={() => go("/")}>
        <BookOpen size={19} />
      </IconButton>
      <div className="flex min-w-0 items-baseline gap-2.5">
        {number && <span className="figure text-lg text-soft">{number}</span>}
        <input
          aria-label="Title"
          value={title}
          maxLength={120}
          placeholder="Untitled"
          onBlur={() => useExercise.getState().endGroup()}
          onChange={(event) =>
            useExercise.getState().edit((document) => {
              document.title = event.target.value;
            }, "title")
          }
          className="field-sizing-content max-w-[28rem] min-w-24 truncate rounded-md border border-transparent bg-transparent px-1.5 py-0.5 font-serif text-xl font-medium hover:border-hairline focus:border-accent focus:bg-paper focus:outline-none"
        />
      </div>
      <SavingState />
      <span className="grow" />
      <Hint text="All commands" shortcut="Ctrl K">
        <button
          type="button"
          aria-label="Ctrl K: all commands"
          onClick={() => openPanel("commands")}
          className="mr-1 flex h-8 items-center gap-1.5 rounded-md border border-hairline px-2 text-[13px] text-ink hover:bg-ruling"
        >
          <Search size={14} aria-hidden="true" />
          <Keys>Ctrl K</Keys>
        </button>
      </Hint>
      <CommandButton of={undo} disabled={!canUndo}>
        <Undo2 size={18} />
      </CommandButton>
      <CommandButton of={redo} disabled={!canRedo}>
        <Redo2 size={18} />
      </CommandButton>
      <CommandButton of={revisions}>
        <History size={18} />
      </CommandButton>
      <CommandButton of={looks.theme}>
        {theme === "dark" ? <Sun size={18} /> : <Moon size={18} />}
      </CommandButton>
      <Menu
        trigger={
          <button
            type="button"
            aria-label="More"
            className="inline-flex size-9 items-center justify-center rounded-md hover:bg-ruling"
          >
            <MoreHorizontal size={19} />
          </button>
        }
      >
        {commands.map((command) => (
          <CommandItem key={command.name} of={command} />
        ))}
        <MenuLine />
        <CommandItem of={looks.block} />
        <CommandItem of={looks.symbols} />
      </Menu>
      <Details open={panel === "details"} onClose={() => openPanel(null)} />
      <Revisions open={panel === "revisions"} onClose={() => openPanel(null)} />
    </header>
  );
}

const WORDS: Record<Saving["state"], string> = {
  saved: "Saved",
  waiting: "Saving …",
  saving: "Saving …",
  offline: "Not saved: the server does not answer. Work goes on; saving is tried again.",
  refused: "Not saved",
  clash: "Not saved: changed elsewhere",
};

function SavingState() {
  const saving = useExercise((state) => state.saving);
  const bad = ["offline", "refused", "clash"].includes(saving.state);
  return (
    <p
      role="status"
      aria-label="Saving"
      className={`ml-2 flex items-center gap-1.5 truncate text-[13px] ${bad ? "font-medium text-fault" : "text-soft"}`}
    >
      {bad && <CloudOff size={15} aria-hidden="true" />}
      {WORDS[saving.state]}
      {saving.state === "refused" && `: ${saving.sentence}`}
    </p>
  );
}
