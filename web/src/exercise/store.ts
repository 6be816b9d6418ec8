// The open exercise: its document, what was undone, what the server made of it. Components draw this.
import { produce } from "immer";
import { create } from "zustand";
import type { Exercise, Look, Opened, Schematic } from "../api/types";

const DEEPEST_UNDO = 500;

export type Saving =
  | { state: "saved" }
  | { state: "waiting" }
  | { state: "saving" }
  | { state: "offline" }
  | { state: "refused"; sentence: string }
  | { state: "clash"; sentence: string; latest: number };

interface OpenExercise {
  id: number;
  /** The revision the document was last saved as, or opened from. */
  revision: number;
  /** The revision whose content lies at the bottom of `past`; undo goes on below it. */
  floor: number;
  /** Set while the document equals an earlier revision that undo went back to. */
  restores: number | null;
  document: Exercise;
  saved: Exercise;
  past: Exercise[];
  future: Exercise[];
  /** Edits of the same group in a row are undone together. */
  group: string | null;
  look: Look | null;
  saving: Saving;
}

interface Actions {
  open(opened: Opened): void;
  close(): void;
  edit(change: (document: Exercise) => void, group?: string): void;
  draw(change: (schematic: Schematic) => Schematic, group?: string): void;
  endGroup(): void;
  undo(): void;
  redo(): void;
  /** Undo past what this page remembers: `earlier` is revision `number`. */
  goBack(earlier: Exercise, number: number, floor: number): void;
  seen(look: Look): void;
  savedAs(document: Exercise, revision: number): void;
  setSaving(saving: Saving): void;
  rebase(revision: number): void;
  /** Take what was saved elsewhere; what was here is one undo away. */
  adopt(opened: Opened): void;
}

const nothing: Omit<OpenExercise, "id" | "document" | "saved"> = {
  revision: 0,
  floor: 0,
  restores: null,
  past: [],
  future: [],
  group: null,
  look: null,
  saving: { state: "saved" },
};

const blank = {} as Exercise;

export const useExercise = create<OpenExercise & Actions>()((set, get) => {
  const replace = (document: Exercise, group: string | null) => {
    const { document: before, past, group: running } = get();
    if (document === before) return;
    const continues = group !== null && group === running;
    set({
      document,
      past: continues ? past : [...past.slice(-DEEPEST_UNDO), before],
      future: [],
      group,
      restores: null,
    });
  };
  return {
    ...nothing,
    id: 0,
    document: blank,
    saved: blank,
    open: ({ id, revision, restores, document }) =>
      set({ ...nothing, id, revision, floor: restores ?? revision, document, saved: document }),
    close: () => set({ ...nothing, id: 0, document: blank, saved: blank }),
    edit: (change, group) => replace(produce(get().document, change), group ?? null),
    draw: (change, group) => {
      const document = get().document;
      const schematic = change(document.schematic);
      if (schematic !== document.schematic) replace({ ...document, schematic }, group ?? null);
    },
    endGroup: () => set({ group: null }),
    undo: () => {
      const { past, future, document } = get();
      const earlier = past.at(-1);
      if (!earlier) return;
      set({
        document: earlier,
        past: past.slice(0, -1),
        future: [document, ...future],
        group: null,
        restores: null,
      });
    },
    redo: () => {
      const { past, future, document } = get();
      const [later, ...rest] = future;
      if (!later) return;
      set({
        document: later,
        past: [...past, document],
        future: rest,
        group: null,
        restores: null,
      });
    },
    goBack: (earlier, number, floor) => {
      const { future, document } = get();
      set({
        document: earlier,
        future: [document, ...future],
        floor,
        restores: number,
        group: null,
      });
    },
    seen: (look) => set({ look }),
    savedAs: (document, revision) => set({ saved: document, revision }),
    setSaving: (saving) => set({ saving }),
    rebase: (revision) => set({ revision }),
    adopt: ({ revision, document: other }) => {
      const { past, document } = get();
      set({
        document: other,
        saved: other,
        revision,
        past: [...past, document],
        future: [],
        group: null,
        restores: null,
        saving: { state: "saved" },
      });
    },
  };
});
