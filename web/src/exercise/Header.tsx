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
import { undoFurther } from "../document/saving";
import { type Saving, useExercise } from "../document/store";
import { useEditorStore } from "../schematic/editor/tools";
import { savePicture } from "../schematic/view/picture";
import { IconButton } from "../ui/Button";
import { Hint, Keys } from "../ui/Hint";
import { Menu, MenuItem, MenuLine } from "../ui/Menu";
import { usePreferences } from "../ui/theme";
import { Details } from "./Details";
import { downloadAs, duplicateExercise } from "./documentActions";
import { openPanel, usePanels } from "./panels";
import { Revisions } from "./Revisions";

export function Header() {
  const [, go] = useLocation();
  const title = useExercise((state) => state.document.title);
  const number = useExercise((state) => state.document.number);
  const canUndo = useExercise((state) => state.past.length > 0 || state.floor > 1);
  const canRedo = useExercise((state) => state.future.length > 0);
  const redo = useExercise((state) => state.redo);
  const { theme, symbols, set } = usePreferences();
  const layers = useEditorStore((state) => state.layers);
  const setHand = useEditorStore((state) => state.set);
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
      <IconButton
        label="Undo"
        shortcut="Ctrl Z"
        disabled={!canUndo}
        onClick={() => void undoFurther()}
      >
        <Undo2 size={18} />
      </IconButton>
      <IconButton label="Redo" shortcut="Ctrl Y" disabled={!canRedo} onClick={redo}>
        <Redo2 size={18} />
      </IconButton>
      <IconButton label="Earlier versions" onClick={() => openPanel("revisions")}>
        <History size={18} />
      </IconButton>
      <IconButton
        label={theme === "dark" ? "Light theme" : "Dark theme"}
        onClick={() => set({ theme: theme === "dark" ? "light" : "dark" })}
      >
        {theme === "dark" ? <Sun size={18} /> : <Moon size={18} />}
      </IconButton>
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
        <MenuItem onSelect={() => openPanel("details")}>Title, author, purpose …</MenuItem>
        <MenuItem onSelect={() => void duplicateExercise(go)}>Duplicate</MenuItem>
        <MenuItem onSelect={() => downloadAs("file")}>Download as a file</MenuItem>
        <MenuItem onSelect={() => downloadAs("netlist")}>Download as netlist text</MenuItem>
        <MenuItem onSelect={() => void savePicture("svg", title)}>
          Picture of the schematic, SVG
        </MenuItem>
        <MenuItem onSelect={() => void savePicture("png", title)}>
          Picture of the schematic, PNG
        </MenuItem>
        <MenuLine />
        <MenuItem onSelect={() => setHand({ layers: { ...layers, title: !layers.title } })}>
          {layers.title ? "Hide the title block" : "Show the title block"}
        </MenuItem>
        <MenuItem onSelect={() => set({ symbols: symbols === "iec" ? "ieee" : "iec" })}>
          {symbols === "iec" ? "US symbols" : "IEC symbols"}
        </MenuItem>
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
