// The open exercise: its document, what was undone, what the server made of it. Components draw this.
import { produce } from "immer";
import { create } from "zustand";
import type { Evaluation, Exercise, Opened, Schematic } from "../api/types";
import { keepingNumbers } from "./numbers";

const DEEPEST_UNDO = 500;

export type Saving =
  | { state: "saved" }
  | { state: "waiting" }
  | { state: "saving" }
  | { state: "offline" }
  | { state: "refused"; sentence: string }
  | { state: "clash"; sentence: string; latest: number };

export interface Behind {
  message: string;
  /** Asks again, where that is not done by itself. */
  again: (() => void) | null;
  isNotSignedIn: boolean;
}

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
  look: Evaluation | null;
  /** Why the look is not of now. */
  behind: Behind | null;
  /** The document that the look is of, and the block whose drawing it was of. */
  lookedAt: Exercise | null;
  lookedInside: string | null;
  /** The block whose drawing is open; null for the exercise's own. */
  inside: string | null;
  /** The case that is looked at, the circuit as drawn being "". Use `shownCase`, as it may be gone. */
  shownCase: string;
  /** Whether the ledger is looked at, which costs every look tolerances. */
  comparing: boolean;
  saving: Saving;
}

interface Actions {
  open(opened: Opened): void;
  close(): void;
  edit(change: (document: Exercise) => void, group?: string): void;
  /** Edit the drawing that is open: the exercise's, or a block's. */
  draw(change: (schematic: Schematic) => Schematic, group?: string): void;
  editSheet(change: (schematic: Schematic) => void, group?: string): void;
  enter(block: string | null): void;
  endGroup(): void;
  undo(): void;
  redo(): void;
  /** Undo past what this page remembers: `earlier` is revision `number`. */
  goBack(earlier: Exercise, number: number, floor: number): void;
  seen(look: Evaluation, of: Exercise, inside: string | null): void;
  unseen(behind: Behind): void;
  compare(on: boolean): void;
  savedAs(document: Exercise, revision: number): void;
  setSaving(saving: Saving): void;
  rebase(revision: number): void;
  /** Take what was saved elsewhere; what was here is one undo away. */
  adopt(opened: Opened): void;
}

const nothing: Omit<OpenExercise, "id" | "document" | "saved" | "comparing"> = {
  revision: 0,
  floor: 0,
  restores: null,
  past: [],
  future: [],
  group: null,
  look: null,
  behind: null,
  lookedAt: null,
  lookedInside: null,
  inside: null,
  shownCase: "",
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
  /** The drawing that is open, with the numbers its nodes had when last looked at. */
  const numbered = (document: Exercise): Schematic => {
    const { inside, look, lookedInside } = get();
    const sheet = sheetOf(document, inside);
    return look && lookedInside === inside ? keepingNumbers(sheet, look) : sheet;
  };
  return {
    ...nothing,
    comparing: false,
    id: 0,
    document: blank,
    saved: blank,
    open: ({ id, revision, restores, document }) =>
      set({ ...nothing, id, revision, floor: restores ?? revision, document, saved: document }),
    close: () => set({ ...nothing, id: 0, document: blank, saved: blank }),
    edit: (change, group) => replace(produce(get().document, change), group ?? null),
    draw: (change, group) => {
      const { document, inside } = get();
      const before = numbered(document);
      const schematic = change(before);
      if (schematic === before) return;
      const now = withSheet(document, inside, schematic);
      replace(withoutGone(now, before, schematic, inside), group ?? null);
    },
    editSheet: (change, group) => {
      const { document, inside } = get();
      const before = numbered(document);
      const schematic = produce(before, change);
      if (schematic !== before) replace(withSheet(document, inside, schematic), group ?? null);
    },
    enter: (inside) => set({ inside, group: null }),
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
    seen: (look, lookedAt, lookedInside) => set({ look, lookedAt, lookedInside, behind: null }),
    unseen: (behind) => set({ behind }),
    compare: (comparing) => set({ comparing }),
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

/** The drawing that is open: a block's, where one was entered and is still there. */
export function sheetOf(document: Exercise, inside: string | null): Schematic {
  return document.blocks?.find((block) => block.id === inside)?.schematic ?? document.schematic;
}

/** Cases speak no more of parts that were taken off the sheet. */
function withoutGone(
  document: Exercise,
  before: Schematic,
  now: Schematic,
  inside: string | null,
): Exercise {
  if (!document.cases?.length || now.parts.length >= before.parts.length) return document;
  const left = new Set(now.parts.map(({ id }) => id));
  const prefix = inside ? `${inside}/` : "";
  const gone = new Set(
    before.parts.filter(({ id }) => !left.has(id)).map(({ id }) => `${prefix}${id}`),
  );
  const cases = document.cases.map((each) => ({
    ...each,
    changes: each.changes.filter(({ part }) => !gone.has(part)),
  }));
  return { ...document, cases };
}

function withSheet(document: Exercise, inside: string | null, schematic: Schematic): Exercise {
  if (!document.blocks.some((block) => block.id === inside)) return { ...document, schematic };
  const blocks = document.blocks.map((b) => (b.id === inside ? { ...b, schematic } : b));
  return { ...document, blocks };
}

export const useSheet = (): Schematic =>
  useExercise((state) => sheetOf(state.document, state.inside));
