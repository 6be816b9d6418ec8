// Giving things other names, wherever the document speaks of them.
import { carryOut } from "../api/changes";
import { askOnLine } from "../api/line";
import type { Renaming } from "../api/types";
import { asking } from "./sending";
import { useExercise } from "./store";

const MOST_TRIES = 10; // while edits come in between
const REST = 250; // ms without an edit, before it is tried again

/** All of them at once, undone in one step, together with those of the same group just before. Rejects
 * with a sentence where a name cannot be given. */
export async function rename(renamings: Renaming[], group?: string): Promise<void> {
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    const { document, id } = useExercise.getState();
    const changes = await asking(document, (sent) => askOnLine("rename", { ...sent, renamings }));
    const now = useExercise.getState();
    if (now.id !== id) return;
    if (now.document !== document) {
      await atRest();
      continue;
    }
    now.edit((draft) => carryOut(draft, changes), group);
    return;
  }
  throw new Error("The drawing changed meanwhile; give the name again.");
}

/** Once the hand rests: what is typed on meanwhile would come in between again. */
function atRest(): Promise<void> {
  return new Promise((resolve) => {
    const rested = () => {
      unsubscribe();
      resolve();
    };
    let timer = setTimeout(rested, REST);
    const unsubscribe = useExercise.subscribe((state, before) => {
      if (state.document === before.document) return;
      clearTimeout(timer);
      timer = setTimeout(rested, REST);
    });
  });
}
