// Giving things other names, wherever the document speaks of them.
import { replaceIn } from "../api/changes";
import { askOnLine } from "../api/line";
import type { Renaming } from "../api/types";
import { asking } from "./sending";
import { useExercise } from "./store";

const MOST_TRIES = 3; // while edits come in between

/** All of them at once, undone in one step, together with those of the same group just before. Rejects
 * with a sentence where a name cannot be given. */
export async function rename(renamings: Renaming[], group?: string): Promise<void> {
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    const { document, id } = useExercise.getState();
    const changes = await asking(document, (sent) => askOnLine("rename", { ...sent, renamings }));
    const now = useExercise.getState();
    if (now.id !== id) return;
    if (now.document !== document) continue;
    now.edit((draft) => replaceIn(draft, changes), group);
    return;
  }
  throw new Error("The drawing changed meanwhile; give the name again.");
}
