// Lines of a working shown, taken into one's own.
import { useExercise } from "../document/store";
import { freshId } from "../schematic/model/wires";
import { say } from "../ui/Toasts";

/** At the end; a line that is there already is not written twice. */
export function takeOver(text: string): void {
  const { document } = useExercise.getState();
  if (document.hand.some((line) => line.text.trim() === text)) {
    say("This line is in your working already.");
    return;
  }
  useExercise.getState().edit((draft) => {
    draft.hand.push({ id: freshId("h", draft.hand), text, role: "line" });
  });
  useExercise.getState().endGroup();
}
