// The build changed, sealed and opened.
import { askOnLine } from "../api/line";
import type { Build } from "../api/types";
import { asking } from "../document/sending";
import { useExercise } from "../document/store";
import { say } from "../ui/Toasts";

export const change = (to: (build: Build) => void) =>
  useExercise.getState().edit((document) => {
    to(document.build);
  }, "build");

export async function turn(way: "seal" | "unseal", word: string): Promise<void> {
  try {
    const { document } = useExercise.getState();
    const build: Build = await asking(document, (sent) => askOnLine(way, { ...sent, word }));
    useExercise.getState().edit((draft) => {
      draft.build = build;
    });
  } catch (error) {
    say((error as Error).message);
  }
}
