// What is done with one line of the working, whatever kind it is.
import { useExercise } from "../document/store";

export const lineOf = (id: string) => ({
  write: (text: string) =>
    useExercise.getState().edit((document) => {
      const line = document.hand.find((candidate) => candidate.id === id);
      if (line) line.text = text;
    }, `line ${id}`),
  remove: () =>
    useExercise.getState().edit((document) => {
      document.hand = document.hand.filter((line) => line.id !== id);
    }),
});
