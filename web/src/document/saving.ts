// Keeping: every pause in editing is saved as a revision; what is not saved yet survives a reload.
import { api, ask, isPassing, Refused } from "../api/client";
import type { Exercise, Imported, Opened, Saved } from "../api/types";
import { useExercise } from "./store";

const PAUSE = 400; // ms without an edit before saving
const DRAFT_PAUSE = 150; // ms without an edit before it is written down in the browser
const LATEST_DRAFT = 1_000; // ms, however many follow
const IDLE = { timeout: 300 }; // ms that a draft waits for the page to have time
// Not every browser tells when it is idle.
const whenIdle = window.requestIdleCallback ?? ((work: () => void) => setTimeout(work));
const RETRY = 2_000; // ms between tries while the server does not answer

interface Draft {
  basedOn: number;
  document: Exercise;
}

const draftKey = (id: number) => `lucid-bench.draft.${id}`;

/** Save the open exercise as it changes, until the returned function is called. */
export function keepSaving(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let underWay = false;
  const draft = draftInPauses();

  const save = async (keepalive = false) => {
    clearTimeout(timer);
    const { id, revision, document, saved, restores, saving } = useExercise.getState();
    const isOver = saving.state === "waiting" || (saving.state === "saving" && !underWay);
    if (id && document === saved && isOver) {
      // Undone and redone back to what is kept already, perhaps while that was being saved.
      forgetDraft(id);
      useExercise.getState().setSaving({ state: "saved" });
    }
    if (!id || document === saved || underWay || saving.state === "clash") return;
    underWay = true;
    useExercise.getState().setSaving({ state: "saving" });
    let next: number | null = PAUSE; // edits made meanwhile are saved when they pause
    try {
      const body = { based_on: revision, restores, document };
      const path = { identity: id };
      const answer = await ask<Saved>(
        api.PUT("/api/exercises/{identity}", { params: { path }, body, keepalive }),
      );
      if (useExercise.getState().id !== id) {
        forgetDraft(id); // the page was left meanwhile, and this was its last word
        return;
      }
      useExercise.getState().savedAs(document, answer.revision);
      if (useExercise.getState().document === document) {
        forgetDraft(id);
        useExercise.getState().setSaving({ state: "saved" });
      }
    } catch (error) {
      if (!(error instanceof Refused)) {
        useExercise.getState().setSaving({ state: "offline" });
        next = RETRY;
      } else if (error.problem.status === 409) {
        const { detail: sentence, latest } = error.problem;
        useExercise.getState().setSaving({ state: "clash", sentence, latest: latest ?? 0 });
      } else {
        useExercise.getState().setSaving({ state: "refused", sentence: error.message });
        next = isPassing(error) ? RETRY : null;
      }
    } finally {
      underWay = false;
    }
    const now = useExercise.getState();
    if (now.document !== now.saved && next !== null) timer = setTimeout(() => void save(), next);
  };

  const leave = useExercise.subscribe((now, before) => {
    const edited = now.document !== before.document && now.document !== now.saved;
    const released = before.saving.state === "clash" && now.saving.state === "waiting";
    if (!now.id || !(edited || released)) return;
    if (edited) draft.later();
    if (now.saving.state === "clash") return;
    clearTimeout(timer);
    timer = setTimeout(() => void save(), PAUSE);
    const { state } = now.saving;
    if (edited && state !== "offline" && state !== "waiting") now.setSaving({ state: "waiting" });
  });
  const flush = () => {
    draft.now();
    void save(true);
  };
  window.addEventListener("pagehide", flush);
  void save(); // a draft taken up again
  return () => {
    flush();
    leave();
    window.removeEventListener("pagehide", flush);
  };
}

/** Writes the open exercise down as a draft when the hand rests, or at once. */
function draftInPauses(): { later(): void; now(): void } {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let since: number | null = null; // of the first edit not written down
  const now = () => {
    clearTimeout(timer);
    if (since === null) return;
    since = null;
    const { id, revision, document, saved } = useExercise.getState();
    if (document !== saved) writeDraft(id, { basedOn: revision, document });
  };
  const later = () => {
    since ??= performance.now();
    clearTimeout(timer);
    const rest = since + LATEST_DRAFT - performance.now();
    timer = setTimeout(() => whenIdle(now, IDLE), Math.min(DRAFT_PAUSE, rest));
  };
  return { later, now };
}

function writeDraft(id: number, draft: Draft): void {
  try {
    localStorage.setItem(draftKey(id), JSON.stringify(draft));
  } catch {
    // Storage full or forbidden: saving to the server goes on all the same.
  }
}

export function forgetDraft(id: number): void {
  localStorage.removeItem(draftKey(id));
}

/** Take up edits that a closed page could not save any more; those of an older page are read anew. */
export async function takeUpDraft(opened: Opened): Promise<void> {
  const text = localStorage.getItem(draftKey(opened.id));
  if (!text) return;
  try {
    const draft = JSON.parse(text) as Draft;
    let { document } = draft;
    if (document.version !== opened.document.version) {
      const body = { text: JSON.stringify(document), name: "" };
      document = (await ask<Imported>(api.POST("/api/import", { body }))).document;
    }
    const store = useExercise.getState();
    if (store.id !== opened.id) return;
    if (JSON.stringify(document) === JSON.stringify(opened.document)) {
      forgetDraft(opened.id);
      return;
    }
    store.rebase(draft.basedOn);
    store.edit((now) => {
      Object.assign(now, document);
    });
  } catch (error) {
    if (error instanceof Refused || error instanceof SyntaxError) forgetDraft(opened.id);
  }
}

/** Settle a clash by saving on top of what was saved elsewhere, which stays among the revisions. */
export function saveOnTop(latest: number): void {
  const store = useExercise.getState();
  store.rebase(latest);
  store.setSaving({ state: "waiting" });
}

/** Undo, also past what this page remembers: the revisions before go on being undone. */
export async function undoFurther(): Promise<void> {
  const { past, floor, id, undo, goBack, document } = useExercise.getState();
  if (past.length) {
    undo();
    return;
  }
  for (let number = floor - 1; number >= 1; ) {
    const path = { identity: id, number };
    const earlier = await ask<Opened>(
      api.GET("/api/exercises/{identity}/revisions/{number}", { params: { path } }),
    );
    const source = earlier.restores ?? number;
    if (JSON.stringify(earlier.document) !== JSON.stringify(document)) {
      goBack(earlier.document, number, source);
      return;
    }
    number = source - 1;
  }
}
