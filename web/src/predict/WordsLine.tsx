// A heading or a sentence between the lines of the working.
import { X } from "lucide-react";
import { useExercise } from "../document/store";
import { lineOf } from "./lineOf";

interface Props {
  id: string;
  text: string;
  role: "heading" | "sentence";
  focused: boolean;
  onNext(): void;
}

export function WordsLine({ id, text, role, focused, onNext }: Props) {
  const { write, remove } = lineOf(id);
  const isHeading = role === "heading";
  return (
    <li className={`group flex items-center gap-2 px-1 ${isHeading ? "pt-3" : ""}`}>
      <input
        aria-label={isHeading ? "Heading" : "Sentence"}
        // biome-ignore lint/a11y/noAutofocus: words just added are being written
        autoFocus={focused}
        value={text}
        maxLength={500}
        placeholder={isHeading ? "Heading" : "What is done here, and why"}
        onChange={(event) => write(event.target.value)}
        onBlur={() => useExercise.getState().endGroup()}
        onKeyDown={(event) => {
          if (event.key === "Enter") onNext();
          if (event.key === "Backspace" && !text) remove();
        }}
        className={`min-w-0 grow rounded bg-transparent px-2 py-1 placeholder:text-soft hover:bg-raised focus:bg-raised focus:outline-1 focus:outline-accent ${isHeading ? "font-serif text-lg" : "text-[15px]"}`}
      />
      <button
        type="button"
        aria-label={isHeading ? "Remove the heading" : "Remove the sentence"}
        onClick={remove}
        className="rounded p-1 text-soft opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 hover:bg-ruling focus-visible:opacity-100"
      >
        <X size={15} />
      </button>
    </li>
  );
}
