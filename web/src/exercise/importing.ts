// A file or a pasted text from elsewhere, made an exercise of its own. What is open stays as it is.
import { useEffect } from "react";
import { api, ask } from "../api/client";
import type { Exercise, Imported, Opened } from "../api/types";
import { offered } from "../schematic/editor/catalogue";
import { laidOut } from "../schematic/model/layout";
import { say } from "../ui/Toasts";

const LARGEST = 5_000_000; // bytes, as the server reads

/** The new exercise's number, or null where the file was refused, which is said. */
export async function importFile(file: File): Promise<number | null> {
  try {
    if (file.size > LARGEST) throw new Error(`${file.name} is larger than 5 MB.`);
    const text = await file.text();
    const body = { text, name: file.name.replace(/\.[^.]*$/, "") };
    const read = await ask<Imported>(api.POST("/api/import", { body }));
    let document: Exercise = read.document;
    if (read.network)
      document = { ...document, schematic: await laidOut(read.network, await offered()) };
    const opened = await ask<Opened>(api.POST("/api/exercises", { body: { document } }));
    const [first, ...others] = read.notes;
    if (first) say(others.length ? `${first} And ${others.length} more like it.` : first);
    return opened.id;
  } catch (error) {
    say(`${file.name}: ${(error as Error).message}`);
    return null;
  }
}

/** Take files dropped anywhere on the page; `opened` is called with the new exercise. */
export function useDroppedFiles(opened: (id: number) => void): void {
  useEffect(() => {
    const over = (event: DragEvent) => {
      if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
    };
    const drop = (event: DragEvent) => {
      const [file] = event.dataTransfer?.files ?? [];
      if (!file) return;
      event.preventDefault();
      void importFile(file).then((id) => id !== null && opened(id));
    };
    window.addEventListener("dragover", over);
    window.addEventListener("drop", drop);
    return () => {
      window.removeEventListener("dragover", over);
      window.removeEventListener("drop", drop);
    };
  }, [opened]);
}
